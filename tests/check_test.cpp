#include "support/support.hpp"

#include <fibula/explain.hpp>
#include <fibula/ids.hpp>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <set>

using test::Workplace;

namespace {

/// What nothing can be said of is said so, and never called sound.
TEST(Check, SaysWhatItDoesNotLookInto) {
  const Workplace place;
  place.folder().write("work/main.c", "int main(void) { return 0; }\n");
  struct Row {
    const char* command;
    int status;
    const char* said;
  };
  const Row rows[] = {
      {"check", 2, "nothing to check"},
      {"check -- make all", 2, "is no compiler, no linker, and no program whose file can be read"},
      {"check -- ar rcs libx.a x.o", 2, "fibula explain -- ar rcs libx.a x.o"},
      {"check -- g++-99 main.c", 4, "g++-99"},
      {"check -- no-such/clang-cl '' main.c", 4, "no-such/clang-cl: not found"},
      {"check -- gcc -mnosuch main.c -o main", 1, ""},
      {"check -- gcc main.c -o main", 0, "nothing was found that would keep it from working"},
      {"check nosuch.log", 3, "cannot be opened"},
  };
  for (const auto& row : rows) {
    SCOPED_TRACE(row.command);
    const auto ran = place.fibula(row.command);
    EXPECT_EQ(ran.status, row.status) << ran.all();
    EXPECT_NE(ran.all().find(row.said), std::string::npos) << ran.all();
  }
}

/// Commands of a log, a script and a compilation database are looked at where they ran.
TEST(Check, FindsTheCommandsOfAFile) {
  const Workplace place;
  place.folder().write("work/src/main.c", "#include <tide.h>\nint main(void) { return tide(); }\n");
  place.folder().write("work/lib/tide.h", "int tide(void);\n");
  const std::string folder = (place / "work/src").string();
  place.folder().write("work/build.log", "make[1]: Entering directory '" + folder +
                                             "'\n\x1b[32m[1/1]\x1b[0m gcc -c main.c \\\n  -o main.o\n");
  place.folder().write("work/script.sh", "cd src && ccache gcc -c main.c -o main.o\n");
  place.folder().write(
      "work/compile_commands.json",
      fmt::format(R"([{{"directory": "{}", "file": "main.c", "command": "gcc -c main.c -o main.o"}}])", folder));
  for (const char* file : {"build.log", "script.sh", "compile_commands.json"}) {
    SCOPED_TRACE(file);
    const auto found = place.fibula_json(std::string("check ") + file);
    ASSERT_EQ(found["findings"].size(), 1U) << found.dump();
    EXPECT_EQ(found["findings"][0]["cause"], "header-not-found");
    EXPECT_EQ(found["findings"][0]["subject"], "tide.h");
    EXPECT_TRUE(found["findings"][0]["tried"]) << found.dump();
  }
}

/// A log starts no compiler that came with it, and none that loads what it names.
TEST(Check, ALogRunsNothingOfItsOwn) {
  const Workplace place;
  place.folder().write("work/main.c", "int main(void) { return 0; }\n");
  place.folder().write("work/tools/gcc", "#!/bin/sh\ntouch \"$(dirname \"$0\")/../was-run\"\n");
  test::must("chmod +x tools/gcc", place / "work");
  place.folder().write(
      "work/build.log",
      "./tools/gcc main.c -o main\ngcc -B tools main.c -o main\ngcc -wrapper tools/gcc main.c -o main\n"
      "main.c:1:1: error: it is wrong\n");
  place.fibula("check build.log");
  place.fibula("explain build.log");
  EXPECT_FALSE(std::filesystem::exists(place / "work/was-run"));
}

/// What terminals obey, other alphabets and cut lines are no complaint, and hide none.
TEST(ExplainLog, BearsWhatLogsHold) {
  const Workplace place;
  const std::string error = "main.c:3:10: fatal error: nosuch.h: No such file or directory\n";
  std::string wide = "\xff\xfe";
  for (const char c : error) wide += std::string(1, c) + '\0';
  struct Row {
    const char* what;
    std::string text;
  };
  const Row rows[] = {
      {"colours",
       "\x1b[01m\x1b[Kmain.c:3:10:\x1b[m\x1b[K \x1b[01;31m\x1b[Kfatal error: \x1b[m\x1b[Knosuch.h: No such file or "
       "directory\n"},
      {"links", "\x1b]8;;file:///a\amain.c\x1b]8;;\a:3:10: fatal error: nosuch.h: No such file or directory\n"},
      {"line ends of Windows", "main.c:3:10: fatal error: nosuch.h: No such file or directory\r\n"},
      {"two bytes a character", wide},
      {"noise before and behind", std::string(100000, '\xf3') + "\n" + error + std::string("\0\0\x07 half a li", 14)},
      {"a very long line", std::string(6U << 20U, 'x') + ": error: y\n" + error},
      {"interleaved jobs", "gcc -c a.c\ngcc -c b.c\n" + error + "b.c: In function 'main':\n"},
  };
  for (const auto& row : rows) {
    SCOPED_TRACE(row.what);
    place.folder().write("work/build.log", row.text);
    const auto found = place.fibula_json("explain build.log");
    ASSERT_EQ(found["findings"].size(), 1U) << found.dump();
    EXPECT_EQ(found["findings"][0]["cause"], "header-not-found");
    EXPECT_EQ(found["findings"][0]["subject"], "nosuch.h");
  }
}

/// What runs without end is ended by who watches it, and what it said until then is explained.
TEST(ExplainCommand, ThatNeverEnds) {
  const Workplace place;
  const std::string error = "main.c:3:10: fatal error: nosuch.h: No such file or directory";
  // Ctrl-C reaches the one in front: this.
  const auto ended = place.fibula(fmt::format("explain -- sh -c 'echo \"{}\"; kill -INT $PPID; sleep 600'", error));
  EXPECT_EQ(ended.status, 130) << ended.all();
  EXPECT_NE(ended.out.find("header-not-found: nosuch.h"), std::string::npos) << ended.all();
  // More than is kept ends nothing.
  const auto much = place.fibula(fmt::format("explain --json -- sh -c 'yes {} | head -c 80000000; echo \"{}\"; exit 1'",
                                             std::string(900, 'x'), error));
  EXPECT_NE(much.out.find("header-not-found"), std::string::npos);
}

/// A log of another machine: what its commands name is not here, and that is no cause. Roots come before what follows.
TEST(ExplainLog, OfAnotherMachineIsReadFromItsWords) {
  const struct {
    const char* log;
    std::vector<std::string> causes;
    std::vector<std::string> says;  ///< somewhere in the findings
    const char* never = nullptr;
  } rows[] = {
      {"c++ main.o -o log -L/opt/tide/lib -ltide\n/usr/bin/ld: main.o: in function `main':\nmain.cpp:(.text+0x1f): "
       "undefined reference to `compress2_of_nowhere'\n",
       {"undefined"},
       {"compress2_of_nowhere"}},
      {"g++ main.o -o log -Llib -ltide\n/usr/bin/ld: skipping incompatible lib/libtide.a when searching for "
       "-ltide\n/usr/bin/ld: cannot find -ltide: No such file or directory\n",
       {"architecture"},
       {"lib/libtide.a"}},
      {"ld.lld: error: lib/libtide.a(tide.o) is incompatible with elf64-x86-64\n",
       {"architecture"},
       {"lib/libtide.a(tide.o)"}},
      {"mold: error: duplicate symbol: b.o: a.o: depth\n", {"duplicate"}, {"depth"}},
      {"LINK : fatal error LNK1104: cannot open file 'tide.lib'\n", {"library-not-found"}, {"tide.lib"}},
      {"tide.lib(tide.obj) : error LNK2038: mismatch detected for '_ITERATOR_DEBUG_LEVEL': value '0' doesn't match "
       "value '2' in main.obj\n"
       "tide.lib(tide.obj) : error LNK2038: mismatch detected for 'RuntimeLibrary': value 'MT_StaticRelease' doesn't "
       "match value 'MDd_DynamicDebug' in main.obj\n"
       "main.obj : error LNK2019: unresolved external symbol \"int __cdecl tide::height(int)\" (?height@tide@@YAHH@Z) "
       "referenced in function main\n",
       {"runtime-flavour", "undefined"},
       {"value 'MT_StaticRelease' doesn't match value 'MDd_DynamicDebug'", "int __cdecl tide::height(int)"}},
      {"ld: warning: ignoring file /Users/you/libtide.a, building for macOS-arm64 but attempting to link with file "
       "built for macOS-x86_64\nUndefined symbols for architecture arm64:\n  \"_tide_height\", referenced from:\n"
       "      _main in main.o\n",
       {"architecture"},
       {"it is for macOS-x86_64, and the link for macOS-arm64"},
       "undefined:"},
      {"/usr/bin/ld: skipping incompatible /opt/lib32/libtide.so when searching for -ltide\n"
       "/usr/bin/ld: main.o: in function `main':\nmain.c:(.text+0x1): undefined reference to `tide_height'\n",
       {"undefined"},
       {},
       "architecture"},
      {"dyld[7]: Symbol not found: _tide_height\n  Referenced from: <A-1> /Users/you/app\n"
       "  Expected in:     <B-2> /usr/local/lib/libtide.2.dylib\n",
       {"runtime-symbol-missing"},
       {"/Users/you/app needs _tide_height", "/usr/local/lib/libtide.2.dylib does not have it"}},
      {"dyld[7]: Library not loaded: /usr/local/lib/libtide.2.dylib\n  Referenced from: <A-1> /Users/you/app\n",
       {"runtime-file-missing"},
       {"/Users/you/app asks for libtide.2.dylib"}},
      {"dyld[7]: Library not loaded: /Users/builder/out/libtide.2.dylib\n  Referenced from: <A-1> /Users/you/app\n",
       {"built-elsewhere"},
       {"install_name_tool -change /Users/builder/out/libtide.2.dylib @rpath/libtide.2.dylib"}},
      {"The procedure entry point tide_height2 could not be located in the dynamic link library C:\\app\\app.exe.\n",
       {"runtime-symbol-missing"},
       {"app.exe needs tide_height2"},
       "app.exe does not have"},
      // Names that tell themselves who has them.
      {"a.o: undefined reference to `pthread_create'\na.o: undefined reference to `pthread_join'\n",
       {"missing-system-input"},
       {"link with -pthread"},
       "asan"},
      {"a.o: undefined reference to `dlopen'\n", {"missing-system-input"}, {"-ldl"}, "asan"},
      {"a.o: undefined reference to `std::cout'\na.o: undefined reference to `operator new(unsigned long)'\n",
       {"cxx-runtime-not-linked"},
       {"-lstdc++"}},
      {"a.o: undefined reference to `vtable for Tide'\n", {"undefined"}, {"first virtual function"}},
      {"crt1.o: undefined reference to `main'\n", {"entry"}, {}, "-l"},
      {"libtide.so: undefined reference to `fstat@GLIBC_2.33'\n", {"libc-floor"}, {"GLIBC_2.33"}},
      {"a.o: undefined reference to `__stack_chk_fail'\n", {"c-runtime"}, {"-nostdlib"}, "-lc;"},
      {"tide.lib(a.obj) : error LNK2001: unresolved external symbol __imp_WSAStartup\n",
       {"missing-system-input"},
       {"link ws2_32.lib"}},
      {"MSVCRT.lib(exe_winmain.obj) : error LNK2019: unresolved external symbol WinMain referenced in function f\n",
       {"entry"},
       {"/SUBSYSTEM:CONSOLE"}},
      {"LINK : fatal error LNK1168: cannot open app.exe for writing\n", {"result-not-written"}, {"app.exe"}},
      {"3>main.obj : error LNK2005: tide already defined in b.obj\n", {"duplicate"}, {"main.obj"}, "3>"},
      {"duplicate symbol '_tide' in:\n    /x/a.o\n    /x/libtide.a(b.o)\n",
       {"duplicate"},
       {"/x/a.o", "libtide.a(b.o)"}},
      {"ld: building for 'iOS-simulator', but linking in object file (/x/libtide.a[3](tide.o)) built for 'iOS'\n",
       {"architecture"},
       {"it is for iOS, and the link for iOS-simulator"}},
      {"ld.lld: error: something that no version of it says yet: tide.o\n", {"unknown"}, {}, "standard"},
      {"/usr/bin/ld: cannot open output file bin/app: No such file or directory\ncollect2: error: ld returned 1 exit "
       "status\n",
       {"result-not-written"},
       {"make its folder"}},
      {"make: *** No rule to make target '/usr/lib/libtide.so', needed by 'app'.  Stop.\n",
       {"library-not-found"},
       {"app is made from it"}},
      {"app: cannot open display: :9\n", {}, {}, "data-file"},
      // Other tools word their errors as compilers do.
      {"configure:41: gcc -o conftest conftest.c -ltide\n/usr/bin/ld: cannot find -ltide: No such file or directory\n"
       "configure:42: error: libtide is required\n",
       {"library-not-found"},
       {},
       "not-about"},
      {"libtool: link: gcc -shared .libs/a.o -ltide -o .libs/liba.so\n/usr/bin/ld: cannot find -ltide\n"
       "libtool: error: cannot find the library '/opt/libtide.la' or unhandled argument '/opt/libtide.la'\n",
       {"library-not-found"},
       {},
       "a.o is not there"},
      {"clang: error: unsupported argument 'm99' to option '-mcpu='\n", {"unknown"}, {"m99"}, "not-about"},
      {"main.cpp:3:5: error: use of undeclared identifier 'tide_open'\n", {"unknown"}, {"tide_open"}, "own code"},
      {"ld: main.o: undefined reference to symbol 'deflate@@ZLIB_1.2.0'\nld: /lib/libz.so.1: error adding symbols: DSO "
       "missing from command line\n",
       {"missing-transitive-input"},
       {"/lib/libz.so.1"}},
      {"ImportError: libtide.so.2: cannot open shared object file: No such file or directory\n",
       {"runtime-file-missing"},
       {"the loader found no libtide.so.2"}},
  };
  const Workplace place;
  for (const auto& row : rows) {
    place.folder().write("work/other.log", row.log);
    const auto found = place.fibula_json("explain other.log")["findings"];
    std::vector<std::string> causes;
    for (const auto& finding : found) causes.push_back(finding["cause"]);
    EXPECT_EQ(causes, row.causes) << row.log;
    const std::string all = found.dump();
    for (const auto& said : row.says) EXPECT_NE(all.find(said), std::string::npos) << said << "\n" << all;
    EXPECT_TRUE(row.never == nullptr || all.find(row.never) == std::string::npos) << all;
  }
}

/// The list of ids is closed, each stands in it once, and each is explained.
TEST(Ids, AreEachThereOnce) {
  std::set<std::string_view> seen;
  for (const auto& id : fibula::all_ids()) {
    EXPECT_TRUE(seen.insert(id.name).second) << id.name;
    EXPECT_TRUE(id.rule || !id.stage.empty()) << id.name;
    for (const auto text : {id.means, id.evidence, id.remedy}) EXPECT_TRUE(text.ends_with('.')) << id.name << text;
  }
  EXPECT_GE(seen.size(), 80U);
}

}  // namespace
