/// Programs that do not start: what the loader of this machine says is explained from the real files, and what other
/// loaders say is understood.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

/// `main` needs libtide.so, which needs libmoon.so.1; both in `lib`.
constexpr const char* chain = R"(mkdir -p lib
echo 'int moon(void) { return 1; }' >moon.c; echo 'int moon(void); int tide(void) { return moon(); }' >tide.c
echo 'int tide(void); int main(void) { return tide() - 1; }' >main.c
shared() { gcc -shared -fPIC "$@"; }
moon() { shared moon.c -o lib/libmoon.so.1 -Wl,-soname,libmoon.so.1 "$@"; }
tide() { shared tide.c -Llib -l:libmoon.so.1 -o lib/libtide.so -Wl,-soname,libtide.so "$@"; }
main() { gcc main.c -Llib -ltide -Wl,-rpath-link,lib -o main "$@"; }
older="-Wl,--disable-new-dtags,-rpath,\$ORIGIN/lib"; newer="-Wl,--enable-new-dtags,-rpath,\$ORIGIN/lib"
moon; tide; main "$older"
)";

struct Situation {
  const char* what;
  const char* make;
  const char* finding;  ///< "cause: subject"
  const char* because;
  const char* remedy;
  const char* command = "./main";
};

const Situation situations[] = {
    {"nothing has it", "main -Wl,-rpath,/nowhere; rm lib/libtide.so", "runtime-file-missing: libtide.so",
     "not on a run path", "fibula build"},
    {"no run path", "main", "search-path: libtide.so", "nothing leads the loader there", "-Wl,-rpath,'$ORIGIN/lib'"},
    {"a run path that is not given on", "main \"$newer\"", "search-path-not-inherited: libmoon.so.1",
     "which serves its own needs and not those", "-Wl,--disable-new-dtags"},
    {"for another machine", "moon -m32", "runtime-file-wrong-arch: libmoon.so.1",
     "is for 32-bit x86 elf, not for 64-bit x86_64 elf", "the right variant"},
    {"a text", "yes text | head -c 999 >lib/libmoon.so.1", "not-a-library: libmoon.so.1", "is a text file",
     "fetch or build it again"},
    {"an empty file", ": >lib/libmoon.so.1", "not-a-library: libmoon.so.1", "is an empty file",
     "fetch or build it again"},
    {"a folder", "rm lib/libmoon.so.1; mkdir lib/libmoon.so.1", "not-a-library: libmoon.so.1", "is a folder",
     "fetch or build it again"},
    {"another version's name", "mv lib/libmoon.so.1 lib/libmoon.so.2", "soname: libmoon.so.1",
     "says that its name is libmoon.so.1", "give it that name: ln -s libmoon.so.2"},
    {"without its version's name", "mv lib/libmoon.so.1 lib/libmoon.so", "soname: libmoon.so.1",
     "says that its name is libmoon.so.1", "give it that name: ln -s libmoon.so "},
    {"a version that it lacks",
     "echo 'V2 { moon; };' >v; moon -Wl,--version-script=v; tide; echo 'V1 { moon; };' >v; moon -Wl,--version-script=v",
     "runtime-symbol-missing: V2", "was linked with a libmoon.so.1 that has V2", "bring the libmoon.so.1"},
    {"a name that it lacks", "echo 'int other;' >moon.c; moon", "runtime-symbol-missing: moon", "needs moon",
     "of different versions"},
    {"another file of the name comes first", "cp lib/libmoon.so.1 .; echo 'int other;' >moon.c; moon",
     "wrong-library-found-first: moon", "has it, and the loader takes", "move"},
    {"a newer C library",
     "echo '__asm__(\".symver f,f@GLIBC_2.99\"); void f(void); void g(void) { f(); }' >f.c; echo 'GLIBC_2.99 { f; };' "
     ">v; echo 'void f(void) {}' >n.c; "
     "mkdir new; shared n.c -o new/libc.so.6 -Wl,-soname,libc.so.6 -Wl,--version-script=v; shared f.c new/libc.so.6 "
     "-nostdlib -o lib/libmoon.so.1 -Wl,-soname,libmoon.so.1",
     "libc-floor: GLIBC_2.99", "was linked with a libc.so.6 that has GLIBC_2.99", "a system as old as this one"},
    {"no loader", "main \"$older\" -Wl,--dynamic-linker=/lib/ld-nowhere.so.1", "c-runtime: /lib/ld-nowhere.so.1",
     "is not on this system", "another C library", "bash -c ./main"},
    {"not executable", "chmod -x main", "permission: main", "does not let", "chmod +x ./main", "bash -c ./main"},
};

TEST(LoadErrors, AreExplainedFromTheRealFiles) {
  for (const auto& s : situations) {
    SCOPED_TRACE(s.what);
    const Workplace place;
    test::must("bash -ec " + test::quoted(std::string(chain) + s.make), place / "work");
    const auto ran = place.fibula(fmt::format("explain -- {}", s.command));
    EXPECT_EQ(ran.status, 1) << ran.all();
    EXPECT_NE(ran.out.find(s.finding), std::string::npos) << ran.all();
    EXPECT_NE(ran.out.find(s.because), std::string::npos) << ran.all();
    EXPECT_NE(ran.out.find(s.remedy), std::string::npos) << ran.all();
  }
}

TEST(LoadErrors, NameTheLibraryOnTheShelf) {
  const Workplace place;
  const auto libraries = place.prebuilt();
  ASSERT_EQ(place.fibula("take " + (libraries / "tidecalc-2.1.0").string()).status, 0);
  place.folder().write("work/main.c",
                       "int tide_sample_harbour(int*); int main(void) { return tide_sample_harbour(0); }");
  test::must(
      "gcc -c main.c && gcc main.o " + test::quoted(libraries / "tidecalc-2.1.0/lib/libtidecalc.so") + " -o main",
      place / "work");
  const auto said = place.fibula("explain -- ./main");
  EXPECT_NE(said.out.find("runtime-file-missing: libtidecalc.so.2"), std::string::npos) << said.all();
  EXPECT_NE(said.out.find("tidecalc 2.1.0 on the shelf has it"), std::string::npos) << said.all();
  EXPECT_NE(said.out.find("fibula attach tidecalc"), std::string::npos) << said.all();
}

/// The words of other systems' loaders.
TEST(LoadErrors, OfOtherLoadersAreUnderstood) {
  struct Row {
    const char* text;
    const char* cause;
    const char* subject;
  };
  const Row rows[] = {
      {"Error loading shared library libtwice.so: No such file or directory (needed by ./dyn)\nError relocating ./dyn: "
       "twice: symbol not found",
       "runtime-file-missing", "libtwice.so"},
      {"Error loading shared library libtwice.so: Exec format error (needed by w/dyn)", "runtime-file-wrong-arch",
       "libtwice.so"},
      {"Error relocating musl/w/libtwice.so: unsupported relocation type 1026", "runtime-file-wrong-arch",
       "libtwice.so"},
      {"Error relocating s/dyn: twice: symbol not found", "runtime-symbol-missing", "twice"},
      {"0264:err:module:import_dll Library greet.dll (which is needed by L\"Z:\\\\build\\\\app.exe\") not found",
       "runtime-file-missing", "greet.dll"},
      {"0288:err:module:import_dll Loading library greet.dll (which is needed by L\"Z:\\\\build\\\\app.exe\") failed "
       "(error c000007b).",
       "runtime-file-wrong-arch", "greet.dll"},
      {"0290:err:module:import_dll Loading library greet.dll (which is needed by L\"Z:\\\\build\\\\app.exe\") failed "
       "(error c000012f).",
       "not-a-library", "greet.dll"},
      {"wine: Call from 000000017002D3F8 to unimplemented function greet.dll._Z5greetB5cxx11i, aborting",
       "runtime-symbol-missing", "_Z5greetB5cxx11i"},
      {"The code execution cannot proceed because greet.dll was not found. Reinstalling the program may fix this "
       "problem.",
       "runtime-file-missing", "greet.dll"},
      {"The program can't start because MSVCP140.dll is missing from your computer.", "runtime-file-missing",
       "MSVCP140.dll"},
      {"The application was unable to start correctly (0xc000007b). Click OK to close the application.",
       "runtime-file-wrong-arch", ""},
      {"The procedure entry point greet could not be located in the dynamic link library C:\\app\\greet.dll.",
       "runtime-symbol-missing", "greet"},
      {"dyld[123]: Library not loaded: @rpath/libtide.dylib\n  Referenced from: <4C4C> /app/main\n  Reason: tried: "
       "'/app/libtide.dylib' (no such file)",
       "runtime-file-missing", "libtide.dylib"},
      {"dyld: Library not loaded: @rpath/libtide.dylib\n  Referenced from: /app/main\n  Reason: image not found",
       "runtime-file-missing", "libtide.dylib"},
      {"dyld[1]: Library not loaded: libtide.dylib\n  Reason: tried: '/app/libtide.dylib' (mach-o file, but is an "
       "incompatible architecture (have 'x86_64', need 'arm64'))",
       "runtime-file-wrong-arch", "libtide.dylib"},
      {"dyld[1]: Symbol not found: _tide\n  Referenced from: /app/main\n  Expected in: /app/libtide.dylib",
       "runtime-symbol-missing", "_tide"},
      {"qemu-aarch64: Could not open '/lib/ld-linux-aarch64.so.1': No such file or directory", "c-runtime",
       "/lib/ld-linux-aarch64.so.1"},
      {"bash: line 1: a64/app: cannot execute binary file: Exec format error", "architecture", "app"},
      {"==11196==ASan runtime does not come first in initial library list; you should either link runtime to your "
       "application",
       "sanitizer-runtime", "libasan"},
      {"Illegal instruction (core dumped)", "cpu-level", "the program"},
      {"dlopen: ./nosuch.so: cannot open shared object file: No such file or directory", "runtime-file-missing",
       "nosuch.so"},
      {"./g: /lib/x86_64-linux-gnu/libstdc++.so.6: version `GLIBCXX_9.4' not found (required by ./g)", "cxx-floor",
       "GLIBCXX_9.4"},
  };
  const Workplace place;
  for (const auto& row : rows) {
    SCOPED_TRACE(row.text);
    place.folder().write("work/log", std::string(row.text) + "\n");
    const auto findings = place.fibula_json("explain log")["findings"];
    ASSERT_EQ(findings.size(), 1U) << findings.dump(1);
    EXPECT_EQ(findings[0]["cause"], row.cause);
    EXPECT_EQ(findings[0]["subject"], row.subject);
    EXPECT_EQ(findings[0]["stage"], "load");
    EXPECT_FALSE(findings[0]["remedy"].get<std::string>().empty());
  }
}

/// A plugin that calls back into the program that opens it.
TEST(LoadErrors, TellThatAProgramHidesItsNames) {
  const Workplace place;
  place.folder().write("work/main.c",
                       "#include <dlfcn.h>\n#include <stdio.h>\nint harbour(void) { return 1; }\n"
                       "int main(void) { if (!dlopen(\"./horn.so\", RTLD_NOW)) { fprintf(stderr, \"%s\\n\", "
                       "dlerror()); return 1; } return 0; }\n");
  test::must(
      "echo 'int harbour(void); int horn(void) { return harbour(); }' >horn.c && gcc -shared -fPIC horn.c -o horn.so",
      place / "work");
  place.folder().write("work/fibula.toml",
                       "[[output]]\nname = \"log\"\nsources = [\"main.c\"]\n[lane.desk]\ncompiler = \"gcc\"\n");
  ASSERT_EQ(place.fibula("build").status, 0);
  const auto said = place.fibula("explain -- .fibula/desk/bin/log");
  EXPECT_NE(said.out.find("program-symbols-not-exported: harbour"), std::string::npos) << said.all();
  EXPECT_NE(said.out.find("-rdynamic"), std::string::npos) << said.all();
}

}  // namespace
