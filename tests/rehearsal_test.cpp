/// The rehearsal says the same as the linker: each situation is built, linked by the real linker, and rehearsed; the
/// sets of undefined symbols and of archive members that were pulled in must be equal.
#include "link/rehearsal.hpp"

#include "base/text.hpp"
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <regex>

using namespace fibula;
using Step = LinkStep::Kind;
using Names = std::set<std::string>;
namespace fs = std::filesystem;

namespace {

struct Situation {
  const char* name;
  std::vector<std::pair<const char*, const char*>> sources;  ///< name without ending, C code (C++ where it ends in +)
  const char* build;                                         ///< after every source was compiled to NAME.o
  const char* line;                                          ///< link inputs
  const char* flags = "";
};

constexpr const char* uses_a = "int a(void); int main(void) { return a(); }";

/// A function of a shared library, which another one asks for under the version that it had when that was linked.
constexpr const char* new_b = "int b1(void) { return 1; } __asm__(\".symver b1,b@@V1\");";
constexpr const char* old_b = "int b1(void) { return 1; } __asm__(\".symver b1,b@V1\");";
constexpr const char* moves_b =
    "echo 'V1 {};' > map; gcc -shared -fPIC b.c -Wl,--version-script=map,-soname,libb.so -o libb.so; gcc -shared "
    "-fPIC a.c libb.so -o liba.so; gcc -shared -fPIC new.c -Wl,--version-script=map,-soname,libb.so -o libb.so";

const Situation situations[] = {
    {"everything is there",
     {{"main", uses_a}, {"a", "int a(void) { return 0; }"}},
     "ar rcs liba.a a.o",
     "main.o liba.a"},
    {"a symbol nobody has", {{"main", uses_a}}, "", "main.o"},
    {"library before its user",
     {{"main", uses_a}, {"a", "int a(void) { return 0; }"}},
     "ar rcs liba.a a.o",
     "liba.a main.o"},
    {"a whole archive",
     {{"main", uses_a},
      {"a", "int a(void) { return 0; }"},
      {"b", "int missing(void); int b(void) { return missing(); }"}},
     "ar rcs liba.a a.o b.o",
     "main.o -Wl,--whole-archive liba.a -Wl,--no-whole-archive"},
    {"a whole archive and its state",
     {{"main", uses_a},
      {"a", "int a(void) { return 0; }"},
      {"b", "int one(void); int b(void) { return one(); }"},
      {"c", "int two(void); int c(void) { return two(); }"}},
     "ar rcs liba.a a.o b.o; ar rcs libc1.a c.o",
     "main.o -Wl,--push-state -Wl,--whole-archive liba.a -Wl,--pop-state libc1.a"},
    {"only the wanted member",
     {{"main", uses_a}, {"a", "int a(void) { return 0; }"}, {"b", "int b(void) { return missing(); }"}},
     "ar rcs liba.a a.o b.o",
     "main.o liba.a"},
    {"a member pulls another",
     {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}, {"b", "int b(void) { return 0; }"}},
     "ar rcs liba.a b.o a.o",
     "main.o liba.a"},
    {"chain in the right order",
     {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}, {"b", "int b(void) { return 0; }"}},
     "ar rcs liba.a a.o; ar rcs libb.a b.o",
     "main.o liba.a libb.a"},
    {"chain in the wrong order",
     {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}, {"b", "int b(void) { return 0; }"}},
     "ar rcs liba.a a.o; ar rcs libb.a b.o",
     "main.o libb.a liba.a"},
    {"a circle without a group",
     {{"main", uses_a},
      {"a", "int b(void); int a(void) { return b(); }"},
      {"b", "int c(void); int b(void) { return c(); }"},
      {"c", "int c(void) { return 0; }"}},
     "ar rcs liba.a a.o c.o; ar rcs libb.a b.o",
     "main.o liba.a libb.a"},
    {"a circle in a group",
     {{"main", uses_a},
      {"a", "int b(void); int a(void) { return b(); }"},
      {"b", "int c(void); int b(void) { return c(); }"},
      {"c", "int c(void) { return 0; }"}},
     "ar rcs liba.a a.o c.o; ar rcs libb.a b.o",
     "main.o -Wl,--start-group liba.a libb.a -Wl,--end-group"},
    {"named twice instead of a group",
     {{"main", uses_a},
      {"a", "int b(void); int a(void) { return b(); }"},
      {"b", "int c(void); int b(void) { return c(); }"},
      {"c", "int c(void) { return 0; }"}},
     "ar rcs liba.a a.o c.o; ar rcs libb.a b.o",
     "main.o liba.a libb.a liba.a"},
    {"weak reference pulls nothing",
     {{"main", "int a(void) __attribute__((weak)); int main(void) { return a ? a() : 0; }"},
      {"a", "int a(void) { return 0; }"}},
     "ar rcs liba.a a.o",
     "main.o liba.a"},
    {"weak and strong reference",
     {{"main", "int a(void) __attribute__((weak)); int b(void); int main(void) { return b() + (a ? a() : 0); }"},
      {"a", "int a(void) { return 0; }"},
      {"b", "int a(void); int b(void) { return a(); }"}},
     "ar rcs liba.a a.o b.o",
     "main.o liba.a"},
    {"weak definition satisfies",
     {{"main", "__attribute__((weak)) int a(void) { return 1; } int main(void) { return a(); }"},
      {"a", "int a(void) { return 0; }"}},
     "ar rcs liba.a a.o",
     "main.o liba.a"},
    {"weak definition in an archive",
     {{"main", uses_a}, {"a", "__attribute__((weak)) int a(void) { return 0; }"}, {"b", "int a(void) { return 1; }"}},
     "ar rcs liba.a a.o b.o",
     "main.o liba.a"},
    {"common pulls a real definition",
     {{"main", "int shared_count; int main(void) { return shared_count; }"}, {"a", "int shared_count = 7;"}},
     "ar rcs liba.a a.o",
     "main.o liba.a",
     "-fcommon"},
    {"common pulls no other common",
     {{"main", "int shared_count; int main(void) { return shared_count; }"}, {"a", "int shared_count; int other = 1;"}},
     "ar rcs liba.a a.o",
     "main.o liba.a",
     "-fcommon"},
    {"shared library satisfies",
     {{"main", uses_a}, {"a", "int a(void) { return 0; }"}},
     "gcc -shared -fPIC a.c -o liba.so",
     "main.o liba.so"},
    {"shared library before its user",
     {{"main", uses_a}, {"a", "int a(void) { return 0; }"}},
     "gcc -shared -fPIC a.c -o liba.so",
     "liba.so main.o"},
    {"as-needed before its user is dropped",
     {{"main", uses_a}, {"a", "int a(void) { return 0; }"}},
     "gcc -shared -fPIC a.c -o liba.so",
     "-Wl,--as-needed liba.so -Wl,--no-as-needed main.o"},
    {"shared library wants an archive's member",
     {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}, {"b", "int b(void) { return 0; }"}},
     "gcc -shared -fPIC a.c -o liba.so; ar rcs libb.a b.o",
     "main.o liba.so libb.a"},
    {"shared library with an unmet need",
     {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}},
     "gcc -shared -fPIC a.c -o liba.so",
     "main.o liba.so"},
    {"shared library's own need is found",
     {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}, {"b", "int b(void) { return 0; }"}},
     "gcc -shared -fPIC b.c -o libb.so; gcc -shared -fPIC a.c -o liba.so -L. -lb -Wl,-rpath,'$ORIGIN'",
     "main.o liba.so"},
    {"a need of a need does not serve the program",
     {{"main", "int a(void); int b(void); int main(void) { return a() + b(); }"},
      {"a", "int b(void); int a(void) { return b(); }"},
      {"b", "int b(void) { return 0; }"}},
     "gcc -shared -fPIC b.c -o libb.so; gcc -shared -fPIC a.c -o liba.so -L. -lb -Wl,-rpath,'$ORIGIN'",
     "main.o liba.so"},
    {"hidden definition serves its own link",
     {{"main", uses_a}, {"a", "__attribute__((visibility(\"hidden\"))) int a(void) { return 0; }"}},
     "ar rcs liba.a a.o",
     "main.o liba.a"},
    {"hidden in a shared library is not shown",
     {{"main", uses_a},
      {"a", "__attribute__((visibility(\"hidden\"))) int a(void) { return 0; } int z(void) { return a(); }"}},
     "gcc -shared -fPIC a.c -o liba.so",
     "main.o liba.so"},
    {"a hidden reference needs an object",
     {{"main", "__attribute__((visibility(\"hidden\"))) int a(void); int main(void) { return a(); }"},
      {"a", "int a(void) { return 0; }"}},
     "gcc -shared -fPIC a.c -o liba.so",
     "main.o liba.so"},
    {"inline functions of two objects",
     {{"main+", "inline int twice(int x) { return 2 * x; } int other(int); int main() { return twice(1) + other(1); }"},
      {"o+", "inline int twice(int x) { return 2 * x; } int other(int x) { return twice(x); }"}},
     "",
     "main.o o.o",
     "-O0"},
    {"declared but never referred to",
     {{"main", "extern int nobody; int main(void) { return sizeof nobody; }"}},
     "",
     "main.o"},
    {"linker-defined symbols",
     {{"main",
       "extern char end, etext, __bss_start, __ehdr_start; int main(void) { return &end > &etext && &__bss_start != "
       "&__ehdr_start; }"}},
     "",
     "main.o"},
    {"bounds of a section",
     {{"main",
       "__attribute__((section(\"harbour\"), used)) static int x = 1; extern int __start_harbour, __stop_harbour, "
       "__start_nowhere; int main(void) { return &__start_harbour == &__stop_harbour || &__start_nowhere; }"}},
     "",
     "main.o"},
    {"bounds of a section that is there",
     {{"main",
       "__attribute__((section(\"harbour\"), used)) static int x = 1; extern int __start_harbour[], __stop_harbour[]; "
       "int main(void) { return __stop_harbour - __start_harbour - 1; }"}},
     "",
     "main.o"},
    {"mathematics apart from the C library",
     {{"main", "#include <math.h>\nint main(int n, char **v) { (void)v; return (int)pow(n, n); }"}},
     "",
     "main.o"},
    {"mathematics named",
     {{"main", "#include <math.h>\nint main(int n, char **v) { (void)v; return (int)pow(n, n); }"}},
     "",
     "main.o -lm"},
    {"everything static",
     {{"main", "#include <stdio.h>\nint a(void); int main(void) { printf(\"%d\", a()); }"},
      {"a", "int a(void) { return 0; }"}},
     "ar rcs liba.a a.o",
     "main.o liba.a",
     "-static"},
    {"a linker script in place of a library",
     {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}, {"b", "int b(void) { return 0; }"}},
     "ar rcs libreal_a.a a.o; ar rcs libreal_b.a b.o; echo \"INPUT($PWD/libreal_a.a $PWD/libreal_b.a)\" > liba.so",
     "main.o liba.so"},
    {"a version that the library has",
     {{"main", "__asm__(\".symver a,a@V1\"); int a(void); int main(void) { return a(); }"},
      {"a",
       "int a1(void) { return 1; } int a2(void) { return 2; } __asm__(\".symver a1,a@V1\"); __asm__(\".symver "
       "a2,a@@V2\");"}},
     "echo 'V1 {}; V2 {} V1;' > map; gcc -shared -fPIC a.c -Wl,--version-script=map -o liba.so",
     "main.o liba.so"},
    {"a version that the library lacks",
     {{"main", "__asm__(\".symver a,a@V9\"); int a(void); int main(void) { return a(); }"},
      {"a", "int a1(void) { return 1; } __asm__(\".symver a1,a@@V1\");"}},
     "echo 'V1 {};' > map; gcc -shared -fPIC a.c -Wl,--version-script=map -o liba.so",
     "main.o liba.so"},
    // As functions that moved into the C library: libraries keep asking for the old version.
    {"an old version that a shared library needs",
     {{"main", uses_a}, {"a", "int b(void); int a(void) { return b(); }"}, {"b", new_b}, {"new", old_b}},
     moves_b,
     "main.o liba.so libb.so"},
    {"an old version that a shared library and an object need",
     {{"main", "int a(void), b(void); int main(void) { return a() + b(); }"},
      {"a", "int b(void); int a(void) { return b(); }"},
      {"b", new_b},
      {"new", old_b}},
     moves_b,
     "main.o liba.so libb.so"},
    {"a thin archive",
     {{"main", uses_a},
      {"a", "int b(void); int a(void) { return b(); }"},
      {"b", "int c(void); int b(void) { return c(); }"}},
     "ar rcsT liba.a b.o a.o",
     "main.o liba.a"},
    {"C++ with its library",
     {{"main+", "#include <iostream>\n#include <string>\nint main() { std::cout << std::string(3, 'x'); }"}},
     "",
     "main.o"},
    {"a typeinfo that is missing",
     {{"main+",
       "struct Base { virtual void f(); virtual ~Base() {} }; struct D : Base { void f() override {} }; int main() { D "
       "d; d.f(); }"}},
     "",
     "main.o"},
};

void PrintTo(const Situation& situation, std::ostream* out) {
  *out << situation.name;
}

/// Builds a situation and gives the driver that links it.
std::string build(const Situation& s, const test::Folder& folder) {
  std::string driver = "gcc";
  for (const auto& [name, code] : s.sources) {
    std::string stem = name;
    const bool cxx = stem.ends_with('+');
    if (cxx) stem.pop_back();
    if (cxx) driver = "g++";
    folder.write(stem + (cxx ? ".cpp" : ".c"), code);
    test::must(fmt::format("{} {} -w -c {}.{} -o {}.o", cxx ? "g++" : "gcc", s.flags, stem, cxx ? "cpp" : "c", stem),
               folder.path());
  }
  if (*s.build != '\0') test::must(s.build, folder.path());
  return driver;
}

struct Said {
  Names undefined;
  Names pulled;
};

Names all_matches(const std::string& text, const std::string& pattern) {
  Names found;
  const std::regex expression(pattern);
  for (std::sregex_iterator match(text.begin(), text.end(), expression), end; match != end; ++match)
    found.insert((*match)[1].matched ? (*match)[1] : (*match)[2]);
  return found;
}

Said linker_says(const Situation& s, const std::string& driver, const test::Folder& folder) {
  const auto ran = test::shell(
      fmt::format("{} {} {} -o out -fuse-ld=bfd -Wl,--no-demangle -Wl,-t,-t", driver, s.flags, s.line), folder.path());
  Said said{all_matches(ran.all(),
                        "undefined reference to (?:symbol )?[`']([^']*)'|hidden symbol [`']([^']*)' isn't defined"),
            {}};
  for (const auto& member : all_matches(ran.out, "\\(?(lib[a-z_]+\\.a\\)?\\(?[a-z]+\\.o)\\)?")) {
    std::string label = member;
    std::replace(label.begin(), label.end(), ')', '(');
    if (fs::exists(folder / label.substr(0, label.find('(')))) said.pulled.insert(label + ")");
  }
  // A thin archive's member is a file of its own, and told like one.
  for (const auto line : text::lines(ran.out)) {
    const bool thin = std::string_view(s.build).find("rcsT") != std::string_view::npos && line.ends_with(".o") &&
                      fs::path(line).is_relative();
    if (thin && std::string_view(s.line).find(line) == std::string_view::npos)
      said.pulled.insert(fmt::format("liba.a({})", line));
  }
  EXPECT_EQ(ran.status == 0, said.undefined.empty()) << ran.all();
  return said;
}

std::vector<LinkStep> steps_of_line(const std::string& line, const fs::path& folder) {
  static const std::map<std::string_view, Step> switches{{"-Wl,--start-group", Step::group_begin},
                                                         {"-Wl,--end-group", Step::group_end},
                                                         {"-Wl,--as-needed", Step::as_needed},
                                                         {"-Wl,--whole-archive", Step::whole_archive},
                                                         {"-Wl,--no-whole-archive", Step::no_whole_archive},
                                                         {"-Wl,--push-state", Step::push_state},
                                                         {"-Wl,--pop-state", Step::pop_state},
                                                         {"-Wl,--no-as-needed", Step::no_as_needed}};
  std::vector<LinkStep> steps;
  for (const auto word : text::words(line)) {
    if (const auto found = switches.find(word); found != switches.end()) {
      steps.push_back({found->second});
    } else if (word.starts_with("-l")) {
      steps.push_back({Step::library, std::string(word.substr(2))});
    } else {
      steps.push_back({Step::file, (folder / word).string()});
    }
  }
  return steps;
}

Said rehearsal_says(const Situation& s, const std::string& driver, const test::Folder& folder) {
  std::vector<std::string> flags{"-fuse-ld=bfd"};
  for (const auto word : text::words(s.flags)) flags.emplace_back(word);
  const auto toolchain = ask({driver, flags});
  EXPECT_TRUE(toolchain) << render(toolchain.error());
  FileStore files;
  const auto rehearsal = rehearse(files, whole_line(*toolchain, steps_of_line(s.line, folder.path())));
  EXPECT_TRUE(rehearsal) << render(rehearsal.error());
  Said said;
  for (const auto& missing : rehearsal->unresolved) said.undefined.insert(missing.symbol);
  for (const auto& member : rehearsal->pulled) {
    if (fs::exists(folder / member.substr(0, member.find('(')))) said.pulled.insert(member);
  }
  return said;
}

class RehearsalSays : public testing::TestWithParam<Situation> {};

TEST_P(RehearsalSays, WhatTheLinkerSays) {
  ::unsetenv("LIBRARY_PATH");
  const test::Folder folder;
  const std::string driver = build(GetParam(), folder);
  const Said linker = linker_says(GetParam(), driver, folder), rehearsal = rehearsal_says(GetParam(), driver, folder);
  EXPECT_EQ(rehearsal.undefined, linker.undefined);
  EXPECT_EQ(rehearsal.pulled, linker.pulled);
}

INSTANTIATE_TEST_SUITE_P(Situations, RehearsalSays, testing::ValuesIn(situations), [](const auto& row) {
  std::string name = row.param.name;
  for (char& c : name) c = text::is_identifier_character(c) ? c : '_';
  return name;
});

TEST(Rehearsal, TellsDuplicatesOnlyWhereBothArePulledIn) {
  const test::Folder folder;
  folder.write("main.c", uses_a);
  folder.write("a.c", "int a(void) { return 0; } int b(void) { return 0; }");
  folder.write("b.c", "int a(void) { return 1; }");
  test::must("gcc -c *.c && ar rcs liba.a a.o && ar rcs libb.a b.o", folder.path());
  FileStore files;
  const auto toolchain = ask({"gcc"});
  const auto both = rehearse(files, whole_line(*toolchain, steps_of_line("main.o a.o b.o", folder.path())));
  ASSERT_EQ(both->duplicates.size(), 1U);
  EXPECT_EQ(both->duplicates[0].symbol, "a");
  EXPECT_EQ(both->duplicates[0].first + " " + both->duplicates[0].second, "a.o b.o");
  EXPECT_TRUE(rehearse(files, whole_line(*toolchain, steps_of_line("main.o liba.a libb.a", folder.path())))
                  ->duplicates.empty());
}

}  // namespace
