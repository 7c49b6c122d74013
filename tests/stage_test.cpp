/// Folders to hand on: they start where nothing else is, and what is in them is known.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <unistd.h>
#include <set>

using test::Workplace;
namespace fs = std::filesystem;

namespace {

/// A library `tide` that needs `moon`, both shared, with a data file and a licence; a program with data of its own.
class Harbour : public Workplace {
 public:
  explicit Harbour(const std::string& compiler = "gcc", const std::string& lane = "") {
    write_library("moon", "int moon(void) { return 41; }\n");
    write_library("tide", "int moon(void); int tide(void) { return moon() + 1; }\n");
    folder().write("tide-1.0/share/tide/heights.dat", "3.1\n");
    folder().write("tide-1.0/LICENSE", "SPDX-License-Identifier: MIT\n");
    for (const std::string name : {"moon", "tide"}) {
      test::must(
          fmt::format(
              "{} -shared -fPIC {}.c {} -o lib{}.so -Wl,-soname,lib{}.so.1 && ln -s lib{}.so lib{}.so.1 && rm {}.c",
              compiler, name, name == "tide" ? "-L../moon-1.0 -lmoon" : "", name, name, name, name, name),
          *this / (name + "-1.0"));
      EXPECT_EQ(fibula("take ../" + name + "-1.0").status, 0);
    }
    folder().write("work/main.c",
                   "#include <stdio.h>\n#include <tide.h>\nint main(void) { printf(\"%d\\n\", tide()); return 0; }\n");
    folder().write("work/tables/harbour.txt", "pier\n");
    folder().write(
        "work/fibula.toml",
        fmt::format("[[output]]\nname = \"log\"\nsources = [\"main.c\"]\ndata = [\"tables/*.txt\"]\n\n[library.tide]\n"
                    "[library.moon]\n\n[lane.desk]\ncompiler = \"{}\"\nconfiguration = \"release\"\n{}",
                    compiler, lane));
  }

  fs::path out() const { return *this / "out"; }
  test::Ran stage(const std::string& more = "") const { return fibula("stage --into ../out " + more); }
  std::set<std::string> files() const {
    std::set<std::string> found;
    for (const auto& entry : fs::recursive_directory_iterator(out())) {
      if (entry.is_regular_file()) found.insert(entry.path().lexically_relative(out()).string());
    }
    return found;
  }

 private:
  void write_library(const std::string& name, const std::string& code) const {
    folder().write(name + "-1.0/" + name + ".c", code);
    folder().write(name + "-1.0/" + name + ".h", fmt::format("int {}(void);\n", name));
  }
};

const std::set<std::string> staged = {"libmoon.so.1",           "libtide.so.1",  "log",
                                      "share/tide/heights.dat", "staged.sha256", "tables/harbour.txt"};

TEST(Stage, AFolderStartsElsewhereAndWithoutTheShelf) {
  const Harbour harbour;
  const auto made = harbour.stage("--licences");
  ASSERT_EQ(made.status, 0) << made.all();
  auto with_licence = staged;
  with_licence.insert("licences/tide/LICENSE");
  EXPECT_EQ(harbour.files(), with_licence);
  EXPECT_NE(made.out.find("libc.so.6"), std::string::npos) << made.out;
  EXPECT_NE(made.out.find("part of the C library"), std::string::npos) << made.out;
  fs::rename(harbour.out(), harbour / "elsewhere");
  fs::rename(harbour.shelf(), harbour / "gone");
  fs::rename(harbour / "work", harbour / "gone-too");
  EXPECT_EQ(test::must("env -i ./log", harbour / "elsewhere"), "42\n");
  // Without one of the files it does not start, and which one is known before.
  for (const char* file : {"libmoon.so.1", "libtide.so.1"}) {
    fs::rename(harbour / "elsewhere" / file, harbour / "taken");
    EXPECT_NE(harbour.fibula("explain -- ./log", harbour / "elsewhere").out.find("staged.sha256 lists it"),
              std::string::npos);
    EXPECT_NE(test::shell("./log", harbour / "elsewhere").status, 0);
    EXPECT_NE(harbour.fibula("inspect --needs log", harbour / "elsewhere").out.find(fmt::format("{}  missing", file)),
              std::string::npos);
    fs::rename(harbour / "taken", harbour / "elsewhere" / file);
  }
}

TEST(Stage, OnlyWhatChangedIsWrittenAndWhatIsNotNeededGoes) {
  const Harbour harbour;
  ASSERT_EQ(harbour.stage().status, 0);
  const auto time = fs::last_write_time(harbour.out() / "libtide.so.1");
  EXPECT_NE(harbour.stage().out.find("nothing to do"), std::string::npos);
  harbour.folder().write("work/tables/harbour.txt", "quay and pier\n");
  const auto changed = harbour.fibula_json("stage --into ../out")["stages"][0];
  for (const auto& file : changed["files"])
    EXPECT_EQ(file["change"], file["path"] == "tables/harbour.txt" ? "changed" : "kept") << file;
  EXPECT_EQ(fs::last_write_time(harbour.out() / "libtide.so.1"), time);

  // A file that somebody put there stays, and so does one of ours that somebody changed.
  harbour.folder().write("out/notes.txt", "mine\n");
  harbour.folder().write("out/share/tide/heights.dat", "corrected\n");
  harbour.folder().write("work/main.c", "int main(void) { return 0; }\n");
  test::must("sed -i 's/^data.*//' fibula.toml", harbour / "work");
  ASSERT_EQ(harbour.fibula("detach tide").status, 0);
  ASSERT_EQ(harbour.fibula("detach moon").status, 0);
  const auto fewer = harbour.fibula_json("stage --into ../out")["stages"][0];
  ASSERT_FALSE(fewer.is_null()) << harbour.stage().all();
  EXPECT_EQ(fewer["removed"], (nlohmann::json{"libmoon.so.1", "libtide.so.1", "tables/harbour.txt"}));
  EXPECT_EQ(fewer["left_alone"], nlohmann::json{"share/tide/heights.dat"});
  EXPECT_EQ(harbour.files(), (std::set<std::string>{"log", "notes.txt", "share/tide/heights.dat", "staged.sha256"}));
}

TEST(Stage, TheListTellsWhatChanged) {
  const Harbour harbour;
  ASSERT_EQ(harbour.stage().status, 0);
  EXPECT_EQ(harbour.fibula("stage --check ../out").status, 0);
  EXPECT_EQ(test::must("sha256sum --check --quiet staged.sha256", harbour.out()), "");
  harbour.folder().write("out/tables/harbour.txt", "other\n");
  fs::remove(harbour.out() / "libmoon.so.1");
  const auto checked = harbour.fibula_json("stage --check ../out");
  EXPECT_EQ(checked["changes"], (nlohmann::json{{{"path", "libmoon.so.1"}, {"what", "missing"}},
                                                {{"path", "tables/harbour.txt"}, {"what", "changed"}}}));
  EXPECT_EQ(harbour.fibula("stage --check ../out").status, 1);
  harbour.folder().write("out/staged.sha256", "../../etc/passwd\n");
  const auto bad = harbour.fibula("stage --check ../out");
  EXPECT_EQ(bad.status, 3);
  EXPECT_NE(bad.err.find("staged.sha256:1: not a digest, two spaces and a path"), std::string::npos) << bad.err;
  EXPECT_EQ(harbour.fibula("stage --check ../nothing").status, 3);
}

/// Places where nothing may be written, and what is in the way. Nothing is changed there.
TEST(Stage, RefusesPlacesThatAreNotItsOwn) {
  struct Case {
    const char* what;
    const char* make;
    const char* arguments;
    int status;
    const char* said;
  };
  const Case cases[] = {
      {"the project itself", "", "stage --into .", 1, "is the project itself"},
      {"what holds the project", "", "stage --into ..", 1, "holds the project"},
      {"where builds go", "", "stage --into .fibula/out", 1, "is inside .fibula"},
      {"a file", "echo mine >../out", "stage --into ../out", 1, "is a file, not a folder"},
      {"somebody's own file in the way", "mkdir ../out && echo mine >../out/libtide.so.1", "stage --into ../out", 1,
       "is in the way: it is not from here"},
      {"a folder in the way", "mkdir -p ../out/log", "stage --into ../out", 1, "is in the way"},
      {"neither", "", "stage", 2, "needs a folder"},
      {"no such lane", "", "stage --into ../out --lane nosuch", 2, "nosuch"},
      {"a full disk", "", "stage --into ../out", 4, "cannot be put in place"},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(c.what);
    const Harbour harbour;
    ASSERT_EQ(harbour.fibula("build").status, 0);
    if (*c.make != '\0') test::must(c.make, harbour / "work");
    const std::string before = test::must("find ../out -type f -exec cat {} + 2>/dev/null || true", harbour / "work");
    // A limit of the size of files is what a full disk is here.
    const bool full = std::string_view(c.what) == "a full disk";
    const auto ran =
        full ? test::shell(
                   fmt::format("export FIBULA_SHELF='{}' XDG_CACHE_HOME='{}'; trap '' XFSZ; ulimit -f 8; '{}' {}",
                               harbour.shelf().string(), (harbour / "cache").string(), FIBULA_TOOL, c.arguments),
                   harbour / "work")
             : harbour.fibula(c.arguments);
    EXPECT_EQ(ran.status, c.status) << ran.all();
    EXPECT_NE(ran.err.find(c.said), std::string::npos) << ran.all();
    if (!full) {
      EXPECT_EQ(test::must("find ../out -type f -exec cat {} + 2>/dev/null || true", harbour / "work"), before);
      continue;
    }
    EXPECT_EQ(test::must("find ../out -name '*.new'", harbour / "work"), "");
    // What was interrupted is finished by the same command.
    EXPECT_EQ(harbour.stage().status, 0);
    EXPECT_EQ(harbour.files(), staged);
  }
}

TEST(Stage, AReadOnlyFolderIsLeftAsItWas) {
  const Harbour harbour;
  ASSERT_EQ(harbour.fibula("build").status, 0);
  // Another user, since root may write everywhere; that one may not reach the build folder.
  fs::copy_file(FIBULA_TOOL, harbour / "fibula");
  harbour.folder().write("out/notes.txt", "mine\n");
  test::must("chmod -R a+rwX . && chmod a-w out && mkdir -m 777 home", harbour.folder().path());
  const std::string as_nobody = ::getuid() == 0 ? "setpriv --reuid=65534 --clear-groups sh -c " : "sh -c ";
  const auto ran = test::shell(
      as_nobody +
      test::quoted(fmt::format(
          "cd '{0}/work' && FIBULA_SHELF='{0}/shelf' XDG_CACHE_HOME='{0}/home' '{0}/fibula' stage --into ../out",
          harbour.folder().path().string())));
  EXPECT_EQ(ran.status, 4) << ran.all();
  EXPECT_NE(ran.err.find("out"), std::string::npos) << ran.err;
  EXPECT_NE(ran.err.find("check the permissions of the folder"), std::string::npos) << ran.err;
  EXPECT_EQ(harbour.files(), std::set<std::string>{"notes.txt"});
}

TEST(Stage, EachLaneHasAFolderOfItsOwn) {
  const Harbour harbour("gcc", "\n[lane.quay]\ncompiler = \"clang\"\n");
  ASSERT_EQ(harbour.stage().status, 0);
  EXPECT_EQ(test::must("./log", harbour / "out/desk"), "42\n");
  EXPECT_EQ(test::must("./log", harbour / "out/quay"), "42\n");
}

TEST(Stage, ALibrarysOwnRunPathIsTold) {
  const Harbour harbour;
  test::must(
      "chmod u+w . libtide.so && echo 'int moon(void); int tide(void) { return moon() + 1; }' >../../../tide.c && gcc "
      "-shared -fPIC ../../../tide.c -L../../../moon/1.0/files -lmoon -Wl,-soname,libtide.so.1 "
      "-Wl,--enable-new-dtags,-rpath,/opt/nowhere -o libtide.so",
      harbour.shelf() / "tide/1.0/files");
  const auto made = harbour.stage();
  EXPECT_EQ(made.status, 1) << made.all();
  EXPECT_NE(made.out.find("libmoon.so.1: search-path"), std::string::npos) << made.out;
  EXPECT_NE(made.out.find("link libtide.so.1 with the run path $ORIGIN"), std::string::npos) << made.out;
}

TEST(Stage, PluginsGoAlongWithWhatTheyNeed) {
  const Harbour harbour;
  harbour.folder().write(
      "work/main.c",
      "#include <dlfcn.h>\n#include <stdio.h>\nint main(void) { void* p = dlopen(\"plugins/horn.so\", RTLD_NOW);\n"
      "int (*f)(void) = p ? (int (*)(void))dlsym(p, \"horn\") : 0; printf(\"%d\\n\", f ? f() : -1); return 0; }\n");
  test::must(
      "mkdir plugins && echo 'int moon(void); int horn(void) { return moon(); }' >horn.c && gcc -shared -fPIC horn.c "
      "-L../moon-1.0 -lmoon -o plugins/horn.so",
      harbour / "work");
  test::must("sed -i 's/^data.*/plugins = [\"plugins\\/*.so\"]\\nuses = [\"moon\"]/' fibula.toml", harbour / "work");
  ASSERT_EQ(harbour.stage().status, 0);
  const auto files = harbour.files();
  EXPECT_TRUE(files.contains("plugins/horn.so"));
  EXPECT_TRUE(files.contains("libmoon.so.1"));
  EXPECT_EQ(test::must("./log", harbour.out()), "41\n");
}

TEST(Start, TakesNothingFromTheUsersVariables) {
  const Harbour harbour;
  ASSERT_EQ(harbour.fibula("build").status, 0);
  test::must(
      "rm .fibula/desk/bin/libmoon.so.1 && mkdir ../helping && cp ../moon-1.0/libmoon.so ../helping/libmoon.so.1",
      harbour / "work");
  // It would start with the variable, and is not done for that: the build puts the file back first.
  const auto ran = test::shell(
      fmt::format("export FIBULA_SHELF='{}' XDG_CACHE_HOME='{}' LD_LIBRARY_PATH='{}'; '{}' build --run",
                  harbour.shelf().string(), (harbour / "cache").string(), (harbour / "helping").string(), FIBULA_TOOL),
      harbour / "work");
  EXPECT_EQ(ran.status, 0) << ran.all();
  EXPECT_TRUE(ran.out.ends_with("42\n")) << ran.out;
  harbour.folder().write("work/main.c",
                         "#include <stdlib.h>\nint main(void) { return getenv(\"LD_LIBRARY_PATH\") != 0; }\n");
  EXPECT_EQ(
      test::shell(fmt::format("export FIBULA_SHELF='{}' XDG_CACHE_HOME='{}' LD_LIBRARY_PATH=/nowhere; '{}' build --run",
                              harbour.shelf().string(), (harbour / "cache").string(), FIBULA_TOOL),
                  harbour / "work")
          .status,
      0);
}

#ifndef FIBULA_NATIVE_ONLY
/// Other machines' programs, against their compilers' own system, started by emulators from the staged folder alone.
TEST(Stage, ForOtherMachines) {
  for (const auto& [triple, emulator] :
       {std::pair{"aarch64-linux-gnu", "qemu-aarch64"}, {"arm-linux-gnueabihf", "qemu-arm"}}) {
    SCOPED_TRACE(triple);
    const Harbour harbour(std::string(triple) + "-gcc");
    const auto made = harbour.stage();
    ASSERT_EQ(made.status, 0) << made.all();
    EXPECT_EQ(harbour.files(), staged);
    EXPECT_EQ(test::must(fmt::format("{} -L /usr/{} ./log", emulator, triple), harbour.out()), "42\n");
  }
}

/// Windows: DLLs and the compiler's own run-time beside the program; started by the stand-in, headless.
TEST(Stage, ForWindows) {
  const Workplace place;
  const std::string gxx = "x86_64-w64-mingw32-g++-posix";
  place.folder().write("tide-1.0/tide.h",
                       "#include <string>\n#ifdef TIDE_BUILD\n#define API __declspec(dllexport)\n#else\n#define API "
                       "__declspec(dllimport)\n#endif\nAPI std::string tide(int n);\n");
  place.folder().write(
      "tide-1.0/tide.cpp",
      "#define TIDE_BUILD\n#include \"tide.h\"\nstd::string tide(int n) { return std::to_string(n); }\n");
  test::must(gxx + " -shared tide.cpp -o tide.dll -Wl,--out-implib,libtide.dll.a && rm tide.cpp", place / "tide-1.0");
  ASSERT_EQ(place.fibula("take ../tide-1.0").status, 0);
  place.folder().write("work/main.cpp",
                       "#include <cstdio>\n#include <tide.h>\nint main() { std::puts(tide(42).c_str()); }\n");
  place.folder().write(
      "work/fibula.toml",
      fmt::format("[[output]]\nname = \"log\"\nsources = [\"main.cpp\"]\n[library.tide]\n[lane.counter]\ncompiler = "
                  "\"{}\"\nconfiguration = \"release\"\n",
                  gxx));
  const auto made = place.fibula("stage --into ../out");
  ASSERT_EQ(made.status, 0) << made.all();
  const std::string wine = fmt::format(
      "WINEPREFIX='{}' WINEDEBUG=-all,err+module "
      "WINEDLLOVERRIDES='mscoree,mshtml,winemenubuilder.exe,winedbg.exe,services.exe,explorer.exe=d' "
      "/usr/lib/wine/wine64 log.exe",
      TEST_WINE_PREFIX);
  EXPECT_EQ(test::must(wine, place / "out"), "42\r\n");
  for (const char* file : {"tide.dll", "libstdc++-6.dll", "libgcc_s_seh-1.dll", "libwinpthread-1.dll"}) {
    SCOPED_TRACE(file);
    fs::rename(place / "out" / file, place / "taken");
    EXPECT_NE(test::shell(wine, place / "out").out, "42\r\n");
    const auto said = place.fibula("inspect --needs log.exe", place / "out");
    EXPECT_EQ(said.status, 1);
    EXPECT_NE(said.out.find(std::string(file)), std::string::npos) << said.out;
    const auto explained = place.fibula("explain -- sh -c " + test::quoted(wine), place / "out");
    EXPECT_NE(explained.out.find(fmt::format("runtime-file-missing: {}", file)), std::string::npos) << explained.all();
    fs::rename(place / "taken", place / "out" / file);
  }
}

TEST(Stage, RefusesTheRunTimeOfDebugBuilds) {
  const Workplace place;
  const std::string gcc = "x86_64-w64-mingw32-gcc-posix";
  place.folder().write("tide-1.0/tide.h", "int tide(void);\n");
  place.folder().write(
      "tide-1.0/tide.c",
      "__declspec(dllimport) int debug_only(void); __declspec(dllexport) int tide(void) { return debug_only(); }\n");
  test::must(
      "printf 'LIBRARY ucrtbased.dll\\nEXPORTS\\n debug_only\\n' >u.def && x86_64-w64-mingw32-dlltool -d u.def -l "
      "libu.a && " +
          gcc + " -shared tide.c libu.a -o tide.dll -Wl,--out-implib,libtide.dll.a && rm tide.c u.def libu.a",
      place / "tide-1.0");
  ASSERT_EQ(place.fibula("take ../tide-1.0").status, 0);
  place.folder().write("work/main.c", "#include <tide.h>\nint main(void) { return tide(); }\n");
  place.folder().write(
      "work/fibula.toml",
      fmt::format("[[output]]\nname = \"log\"\nsources = [\"main.c\"]\n[library.tide]\n[lane.counter]\ncompiler = "
                  "\"{}\"\nconfiguration = \"release\"\n",
                  gcc));
  const auto made = place.fibula("stage --into ../out");
  EXPECT_EQ(made.status, 1) << made.all();
  EXPECT_NE(made.out.find("ucrtbased.dll: runtime-flavour"), std::string::npos) << made.all();
  EXPECT_FALSE(fs::exists(place / "out/log.exe"));
}
#endif

}  // namespace
