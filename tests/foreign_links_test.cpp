/// The rehearsal says the same as the linkers of Windows and macOS: each situation is built, linked by the real linker,
/// and rehearsed; the sets of undefined symbols must be equal.
#include "link/rehearsal.hpp"

#include "base/text.hpp"
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <regex>

using namespace fibula;

namespace {

/// How one kind of linker is used.
struct System {
  std::string compiler;
  std::vector<std::string> flags;
  std::string compile;  ///< {} stands for the name of a source without its ending
  std::string archive;  ///< {0}: the library's name, {1}: its objects
  std::string link;     ///< behind compiler, flags and inputs
  std::string undefined;
};

System gnu(const std::string& machine) {
  return {machine + "-w64-mingw32-gcc-posix",
          {},
          machine + "-w64-mingw32-gcc-posix -w -c {0}.c -o {0}.o",
          "rm -f lib{0}.a; ar rcs lib{0}.a {1}",
          "-Wl,--no-demangle -o out.exe",
          "undefined reference to `([^']*)'"};
}

const System windows64 = gnu("x86_64"), windows32 = gnu("i686");
const System msvc{"clang-cl-14",
                  {"--target=x86_64-pc-windows-msvc", "-fuse-ld=lld", "/link", "/nodefaultlib:libcmt",
                   "/nodefaultlib:oldnames", "/entry:main", "/subsystem:console", "/libpath:."},
                  "clang-cl-14 --target=x86_64-pc-windows-msvc -w /Zl /GS- /c {0}.c /Fo{0}.o",
                  "llvm-lib-14 /out:{0}.lib {1}",
                  "/out:out.exe",
                  "undefined symbol: ([^\\s]+)"};
const System macos{"clang-14",
                   {"--target=x86_64-apple-macos11", "-fuse-ld=lld", "-nostdlib", "-L" TEST_KINDS "/macos", "-lSystem"},
                   "clang-14 --target=x86_64-apple-macos11 -w -c {0}.c -o {0}.o",
                   "rm -f lib{0}.a; llvm-ar-14 rcs lib{0}.a {1}",
                   "-o out",
                   "undefined symbol: ([^\\s]+)"};

struct Situation {
  const char* name;
  const System* system;
  std::vector<std::pair<const char*, const char*>> sources;
  std::vector<std::pair<const char*, const char*>> archives;  ///< name, objects
  const char* build;                                          ///< what else is to be made
  const char* line;
};

constexpr const char* uses_a = "int a(void); int main(void) { return a(); }";
constexpr const char* imports_a = "__declspec(dllimport) int a(void); int main(void) { return a(); }";
constexpr const char* dll = "x86_64-w64-mingw32-gcc-posix -shared a.o -o a.dll -Wl,--out-implib,liba.dll.a";

// clang-format off
const Situation situations[] = {
    {"a library behind its user", &windows64, {{"main", uses_a}, {"a", "int a(void) { return 0; }"}}, {{"a", "a.o"}}, "", "main.o liba.a"},
    {"a library before its user", &windows64, {{"main", uses_a}, {"a", "int a(void) { return 0; }"}}, {{"a", "a.o"}}, "", "liba.a main.o"},
    {"what a member needs", &windows64, {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}}, {{"a", "a.o"}}, "", "main.o liba.a"},
    {"an import library", &windows64, {{"main", imports_a}, {"a", "__declspec(dllexport) int a(void) { return 0; }"}}, {}, dll, "main.o liba.dll.a"},
    {"a function that is imported without saying so", &windows64, {{"main", uses_a}, {"a", "int a(void) { return 0; }"}}, {}, dll, "main.o liba.dll.a"},
    {"data that is imported without saying so", &windows64, {{"main", "extern int a; int main(void) { return a; }"}, {"a", "__declspec(dllexport) int a = 0;"}}, {}, dll, "main.o liba.dll.a"},
    {"a DLL itself", &windows64, {{"main", imports_a}, {"a", "int a(void) { return 0; }"}}, {}, dll, "main.o a.dll"},
    {"a DLL that lacks the name", &windows64, {{"main", uses_a}, {"a", "int other(void) { return 0; }"}}, {}, dll, "main.o a.dll"},
    {"an import of what is static", &windows64, {{"main", imports_a}, {"a", "int a(void) { return 0; }"}}, {{"a", "a.o"}}, "", "main.o liba.a"},
    {"a weak definition", &windows64, {{"main", uses_a}, {"a", "__attribute__((weak)) int a(void) { return 0; }"}}, {}, "", "main.o a.o"},
    {"a weak reference", &windows64, {{"main", "__attribute__((weak)) int a(void); int main(void) { return a ? a() : 0; }"}}, {}, "", "main.o"},
    {"a tentative definition", &windows64, {{"main", "int level; int a(void); int main(void) { return a(); }"}, {"a", "extern int level; int a(void) { return level; }"}}, {{"a", "a.o"}}, "", "main.o liba.a"},
    {"what the linker makes", &windows64, {{"main", "extern char __ImageBase, __bss_start__; int main(void) { return &__ImageBase == &__bss_start__; }"}}, {}, "", "main.o"},
    {"system libraries behind -l", &windows64, {{"main", "unsigned __stdcall timeGetTime(void); int main(void) { return timeGetTime() == 0; }"}}, {}, "", "main.o -lwinmm"},
    {"without the system library", &windows64, {{"main", "unsigned __stdcall timeGetTime(void); int main(void) { return timeGetTime() == 0; }"}}, {}, "", "main.o"},
    {"plain names of 32-bit Windows", &windows32, {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}}, {{"a", "a.o"}}, "", "main.o liba.a"},
    {"a calling convention that differs", &windows32, {{"main", "int __stdcall a(int); int main(void) { return a(0); }"}, {"a", "int a(int x) { return x; }"}}, {}, "", "main.o a.o"},
    {"a calling convention that differs the other way", &windows32, {{"main", "int a(int); int main(void) { return a(0); }"}, {"a", "int __stdcall a(int x) { return x; }"}}, {}, "", "main.o a.o"},
    {"system functions of 32-bit Windows", &windows32, {{"main", "unsigned __stdcall timeGetTime(void); int main(void) { return timeGetTime() == 0; }"}}, {}, "", "main.o -lwinmm"},

    {"MSVC-style, behind its user", &msvc, {{"main", uses_a}, {"a", "int a(void) { return 0; }"}}, {{"a", "a.o"}}, "", "main.o a.lib"},
    {"MSVC-style, before its user", &msvc, {{"main", uses_a}, {"a", "int a(void) { return 0; }"}}, {{"a", "a.o"}}, "", "a.lib main.o"},
    {"MSVC-style, a symbol nobody has", &msvc, {{"main", uses_a}}, {}, "", "main.o"},
    {"a default library", &msvc, {{"main", "#pragma comment(lib, \"a\")\nint a(void); int main(void) { return a(); }"}, {"a", "int a(void) { return 0; }"}}, {{"a", "a.o"}}, "", "main.o"},
    {"a default library of a member", &msvc, {{"main", uses_a}, {"a", "#pragma comment(lib, \"b.lib\")\nint b(void); int a(void) { return b(); }"}, {"b", "int b(void) { return 0; }"}}, {{"a", "a.o"}, {"b", "b.o"}}, "", "main.o a.lib"},
    {"an alternate name", &msvc, {{"main", "#pragma comment(linker, \"/alternatename:a=b\")\nint a(void); int b(void) { return 0; } int main(void) { return a(); }"}}, {}, "", "main.o"},
    {"an alternate name that nobody has", &msvc, {{"main", "#pragma comment(linker, \"/alternatename:a=b\")\nint a(void); int main(void) { return a(); }"}}, {}, "", "main.o"},
    {"MSVC-style, an import of what is there", &msvc, {{"main", imports_a}, {"a", "int a(void) { return 0; }"}}, {}, "", "main.o a.o"},
    {"MSVC-style, an import library", &msvc, {{"main", imports_a}}, {}, "printf 'LIBRARY a.dll\\nEXPORTS\\na\\n' >a.def && llvm-dlltool-14 -m i386:x86-64 -d a.def -l a.lib", "main.o a.lib"},
    {"MSVC-style, archives in a circle", &msvc, {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}, {"b", "int c(void); int b(void) { return c(); }"}, {"c", "int c(void) { return 0; }"}}, {{"x", "a.o c.o"}, {"y", "b.o"}}, "", "main.o x.lib y.lib"},
    {"copies of one function", &msvc, {{"main", "__declspec(selectany) int level = 1; int a(void); int main(void) { return a() - level; }"}, {"a", "__declspec(selectany) int level = 1; int a(void) { return level; }"}}, {}, "", "main.o a.o"},

    {"macOS, before its user", &macos, {{"main", uses_a}, {"a", "int a(void) { return 0; }"}}, {{"a", "a.o"}}, "", "liba.a main.o"},
    {"macOS, a symbol nobody has", &macos, {{"main", uses_a}}, {}, "", "main.o"},
    {"macOS, a dynamic library", &macos, {{"main", uses_a}, {"a", "int a(void) { return 0; }"}}, {}, "clang-14 --target=x86_64-apple-macos11 -fuse-ld=lld -nostdlib -L" TEST_KINDS "/macos -lSystem -dynamiclib a.o -o liba.dylib", "main.o liba.dylib"},
    {"macOS, a dynamic library that keeps it to itself", &macos, {{"main", uses_a}, {"a", "__attribute__((visibility(\"hidden\"))) int a(void) { return 0; }"}}, {}, "clang-14 --target=x86_64-apple-macos11 -fuse-ld=lld -nostdlib -L" TEST_KINDS "/macos -lSystem -dynamiclib a.o -o liba.dylib", "main.o liba.dylib"},
    {"macOS, a text stub", &macos, {{"main", uses_a}}, {}, "printf -- '--- !tapi-tbd\\ntbd-version: 4\\ntargets: [ x86_64-macos ]\\ninstall-name: /usr/lib/liba.dylib\\nexports:\\n  - targets: [ x86_64-macos ]\\n    symbols: [ _a ]\\n...\\n' >liba.tbd", "main.o liba.tbd"},
    {"macOS, bounds of a section", &macos, {{"main", "extern char bound __asm__(\"section$start$__TEXT$__text\"); int main(void) { return &bound == 0; }"}}, {}, "", "main.o"},
    {"macOS, a universal library", &macos, {{"main", uses_a}, {"a", "int a(void) { return 0; }"}}, {{"a", "a.o"}}, "clang-14 --target=arm64-apple-macos11 -c a.c -o arm.o && llvm-ar-14 rcs arm.a arm.o && llvm-lipo-14 -create liba.a arm.a -output libfat.a", "main.o libfat.a"},
};
// clang-format on

void PrintTo(const Situation& situation, std::ostream* out) {
  *out << situation.name;
}

using Names = std::set<std::string>;

void build(const Situation& s, const test::Folder& folder) {
  for (const auto& [name, code] : s.sources) {
    folder.write(fmt::format("{}.c", name), code);
    test::must(fmt::format(fmt::runtime(s.system->compile), name), folder.path());
  }
  for (const auto& [name, objects] : s.archives)
    test::must(fmt::format(fmt::runtime(s.system->archive), name, objects), folder.path());
  if (*s.build != '\0') test::must(s.build, folder.path());
}

/// The words of a line, those of the linker (behind /link) last.
std::string link_command(const Situation& s) {
  std::string before = s.system->compiler, after;
  for (const auto& flag : s.system->flags) (after.empty() && flag != "/link" ? before : after) += " " + flag;
  return fmt::format("{} {}{} {}", before, s.line, after, s.system->link);
}

Names linker_says(const Situation& s, const test::Folder& folder) {
  const auto ran = test::shell(link_command(s), folder.path());
  Names names;
  const std::string said = ran.all();
  const std::regex expression(s.system->undefined);
  for (std::sregex_iterator match(said.begin(), said.end(), expression), end; match != end; ++match)
    names.insert((*match)[1]);
  EXPECT_EQ(ran.status == 0, names.empty()) << said;
  return names;
}

Names rehearsal_says(const Situation& s, const test::Folder& folder) {
  const auto toolchain = ask({s.system->compiler, s.system->flags});
  EXPECT_TRUE(toolchain) << render(toolchain.error());
  std::vector<LinkStep> inputs;
  for (const auto word : text::words(s.line)) {
    if (word.starts_with("-l")) {
      inputs.push_back({LinkStep::Kind::library, std::string(word.substr(2))});
    } else {
      inputs.push_back({LinkStep::Kind::file, (folder / word).string()});
    }
  }
  LinkLine line = whole_line(*toolchain, inputs);
  line.search.push_back(folder.path());
  FileStore files;
  const auto rehearsal = rehearse(files, line);
  EXPECT_TRUE(rehearsal) << render(rehearsal.error());
  Names names;
  for (const auto& missing : rehearsal->unresolved) names.insert(missing.symbol);
  return names;
}

class ForeignLink : public testing::TestWithParam<Situation> {};

TEST_P(ForeignLink, IsRehearsedAsTheLinkerDoesIt) {
  const test::Folder folder;
  build(GetParam(), folder);
  EXPECT_EQ(rehearsal_says(GetParam(), folder), linker_says(GetParam(), folder));
}

INSTANTIATE_TEST_SUITE_P(Situations, ForeignLink, testing::ValuesIn(situations), [](const auto& row) {
  std::string name = row.param.name;
  for (char& c : name) c = text::is_identifier_character(c) ? c : '_';
  return name;
});

}  // namespace
