#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <algorithm>
#include <fibula/lane.hpp>

using namespace fibula;

namespace {

struct Asked {
  std::string compiler;
  std::vector<std::string> flags;
  CompilerFamily family;
  Target target;
  std::map<std::string, std::string> answers;  ///< "" for one that must not be there
  std::string linker;                          ///< part of what it says of itself
};

std::ostream& operator<<(std::ostream& out, const Asked& asked) {
  return out << asked.compiler << " " << fmt::format("{}", fmt::join(asked.flags, " "));
}

class Compilers : public testing::TestWithParam<Asked> {};

TEST_P(Compilers, AreAskedNotAssumed) {
  const Asked& c = GetParam();
  const auto answer = ask({c.compiler, c.flags});
  ASSERT_TRUE(answer) << render(answer.error());
  EXPECT_EQ(answer->family, c.family);
  EXPECT_EQ(answer->target, c.target);
  for (const auto& [id, value] : c.answers) {
    const Answer* given = answer->answer(id);
    EXPECT_EQ(given == nullptr ? "" : to_text(*given), value) << id;
    EXPECT_TRUE(given == nullptr || !given->from.empty()) << id;
  }
  EXPECT_NE(answer->linker_version.find(c.linker), std::string::npos) << answer->linker_version;
  const auto user = std::find_if(answer->link_steps.begin(), answer->link_steps.end(),
                                 [](const LinkStep& s) { return s.kind == LinkStep::Kind::user_inputs; });
  EXPECT_NE(user, answer->link_steps.end()) << "nowhere to put the user's files";
}

constexpr Target x64{Format::elf, Arch::x86_64, 64, Endian::little}, x86{Format::elf, Arch::x86, 32, Endian::little},
    windows64{Format::pe, Arch::x86_64, 64, Endian::little}, windows32{Format::pe, Arch::x86, 32, Endian::little},
    arm{Format::elf, Arch::arm, 32, Endian::little}, macos{Format::macho, Arch::aarch64, 64, Endian::little};

// One compiler a line, as wide as it is.
// clang-format off
const Asked native_compilers[] = {
    {"g++", {}, CompilerFamily::gcc, x64, {{"c-runtime", "glibc"}, {"cxx-runtime", "libstdc++"}, {"string-abi", "new"}, {"stl-debug", "off"}, {"cpu", "x86-64"}, {"float-abi", ""}}, "GNU ld"},
    {"g++", {"-m32", "-D_GLIBCXX_USE_CXX11_ABI=0", "-D_GLIBCXX_DEBUG"}, CompilerFamily::gcc, x86, {{"string-abi", "old"}, {"stl-debug", "on"}, {"cpu", ""}}, "GNU ld"},
    {"g++", {"-march=x86-64-v3", "-fsanitize=address", "-std=c++20"}, CompilerFamily::gcc, x64, {{"cpu", "x86-64-v3"}, {"sanitizers", "address"}, {"standard", "c++20"}}, "GNU ld"},
    {"gcc", {"-static"}, CompilerFamily::gcc, x64, {{"c-runtime", "glibc"}, {"cxx-runtime", ""}, {"string-abi", ""}}, "GNU ld"},
    {"clang++", {}, CompilerFamily::clang, x64, {{"c-runtime", "glibc"}, {"cxx-runtime", "libstdc++"}, {"standard", "c++14"}}, "GNU ld"},
};
const Asked foreign_compilers[] = {
    {"g++", {"-fuse-ld=gold"}, CompilerFamily::gcc, x64, {}, "GNU gold"},
    {"clang++", {"-fuse-ld=mold"}, CompilerFamily::clang, x64, {}, "mold"},
    {"clang++-14", {"-stdlib=libc++", "-fuse-ld=lld"}, CompilerFamily::clang, x64, {{"cxx-runtime", "libc++"}, {"string-abi", ""}, {"cxx", ""}}, "LLD"},
    {"clang++-14", {"--target=aarch64-linux-gnu"}, CompilerFamily::clang, {Format::elf, Arch::aarch64, 64, Endian::little}, {{"c-runtime", "glibc"}}, "GNU ld"},
    {"aarch64-linux-gnu-g++", {}, CompilerFamily::gcc, {Format::elf, Arch::aarch64, 64, Endian::little}, {{"c-runtime", "glibc"}, {"cxx-runtime", "libstdc++"}}, "GNU ld"},
    {"s390x-linux-gnu-g++", {}, CompilerFamily::gcc, {Format::elf, Arch::s390x, 64, Endian::big}, {{"c-runtime", "glibc"}}, "GNU ld"},
    {"riscv64-linux-gnu-g++", {}, CompilerFamily::gcc, {Format::elf, Arch::riscv64, 64, Endian::little}, {{"float-abi", "double"}}, "GNU ld"},
    {"arm-linux-gnueabihf-g++", {}, CompilerFamily::gcc, arm, {{"float-abi", "hard"}, {"cpu", "v7-A"}}, "GNU ld"},
    {"arm-none-eabi-gcc", {"-mcpu=cortex-m4", "-mfloat-abi=softfp"}, CompilerFamily::gcc, arm, {{"float-abi", "softfp"}, {"cpu", "v7E-M"}, {"c-runtime", "newlib"}}, "GNU ld"},
    {"arm-none-eabi-gcc", {"-mcpu=cortex-m0"}, CompilerFamily::gcc, arm, {{"float-abi", "soft"}, {"cpu", "v6-M"}}, "GNU ld"},
    {"avr-gcc", {"-mmcu=atmega328p"}, CompilerFamily::gcc, {Format::elf, Arch::avr, 32, Endian::little}, {{"cpu", "avr5"}, {"c-runtime", "avr-libc"}}, "GNU ld"},
    {"musl-gcc", {}, CompilerFamily::gcc, x64, {{"c-runtime", "musl"}, {"libc", ""}}, "GNU ld"},
    {"x86_64-w64-mingw32-g++-posix", {}, CompilerFamily::gcc, windows64, {{"c-runtime", "msvcrt"}, {"threads", "posix"}, {"exceptions", "seh"}}, "GNU ld"},
    {"i686-w64-mingw32-g++-win32", {}, CompilerFamily::gcc, windows32, {{"threads", "win32"}, {"exceptions", "dwarf"}}, "GNU ld"},
    {"clang-cl-14", {"/MDd", "-fuse-ld=lld"}, CompilerFamily::msvc, windows64, {{"c-runtime", "msvc-dynamic-debug"}, {"stl-debug", "level 2"}, {"cxx-runtime", "msvc"}}, "LLD"},
    {"clang-cl-14", {"--target=i686-pc-windows-msvc", "-fuse-ld=lld", "/link", "/subsystem:windows"}, CompilerFamily::msvc, windows32, {{"c-runtime", "msvc-static"}, {"stl-debug", "level 0"}}, "LLD"},
    {"clang++-14", {"--target=arm64-apple-macos11", "-fuse-ld=lld"}, CompilerFamily::clang, macos, {{"c-runtime", "libSystem"}, {"libc", ""}, {"os", "macos 11.0"}}, "LLD"},
};
// clang-format on

INSTANTIATE_TEST_SUITE_P(Native, Compilers, testing::ValuesIn(native_compilers));
#ifndef FIBULA_NATIVE_ONLY
INSTANTIATE_TEST_SUITE_P(Foreign, Compilers, testing::ValuesIn(foreign_compilers));

TEST(Toolchain, FindsCompilersUnderTheirNamesAndProposesLanes) {
  std::map<std::string, std::string> lanes;
  for (const auto& path : find_compilers()) {
    const auto answer = ask({path.string()});
    lanes[path.filename().string()] = answer ? propose_lane(*answer).name : render(answer.error());
  }
  EXPECT_EQ(lanes["g++"], "x86_64-release");
  EXPECT_EQ(lanes["musl-gcc"], "x86_64-musl-release");
  EXPECT_EQ(lanes["aarch64-linux-gnu-g++"], "aarch64-release");
  EXPECT_EQ(lanes["x86_64-w64-mingw32-g++-posix"], "windows-x86_64-posix-release");
  EXPECT_EQ(lanes["clang-cl-14"], "windows-x86_64-msvc-release");
  for (const char* other : {"gcc", "gcc-12", "c99-gcc", "g++-12", "ccache", "avr-gcc-5.4.0"})
    EXPECT_FALSE(lanes.contains(other)) << other;
}
#endif

TEST(Toolchain, AskingTwiceGivesTheSame) {
  const auto answers = ask_all({{"g++"}, {"no-such-g++"}, {"g++"}});
  ASSERT_TRUE(answers[0] && answers[2]);
  EXPECT_EQ(answers[0]->answers.size(), answers[2]->answers.size());
  EXPECT_FALSE(answers[1]);
}

TEST(Toolchain, RefusalsNameTheCompilerAndTheRemedy) {
  const test::Folder folder;
  const auto script = [&](const char* name, const char* text) {
    const auto path = folder.write(name, std::string("#!/bin/sh\n") + text);
    test::fs::permissions(path, test::fs::perms::owner_all);
    return path.string();
  };
  struct Case {
    std::string compiler;
    std::vector<std::string> flags;
    Code code;
    std::string what;
  };
  const Case cases[] = {
      {"no-such-g++", {}, Code::missing_tool, "not found"},
      {"g++", {"-mno-such-flag"}, Code::refused, "refuses the lane's flags: "},
      {"g++",
       {"--sysroot=" + folder.path().string()},
       Code::refused,
       "finds no stdio.h in the sysroot " + folder.path().string()},
      {script("crash-g++", "kill -SEGV $$"), {}, Code::refused, "ended with signal 11"},
      {script("odd-g++", "echo hello"),
       {},
       Code::refused,
       "does not answer as a compiler of the GCC, Clang or MSVC-style family does"},
  };
  for (const auto& c : cases) {
    const auto answer = ask({c.compiler, c.flags});
    ASSERT_FALSE(answer) << c.compiler;
    EXPECT_EQ(answer.error().code, c.code);
    EXPECT_NE(answer.error().what.find(c.what), std::string::npos) << answer.error().what;
    EXPECT_EQ(answer.error().file, c.compiler);
    EXPECT_FALSE(answer.error().hint.empty());
  }
}

TEST(Toolchain, AnswersAreKeptUntilTheCompilerChanges) {
  const test::Workplace place;
  const auto log = place / "calls";
  const auto wrapper = place.folder().write(
      "bin/g++", fmt::format("#!/bin/sh\necho call >> '{}'\nexec /usr/bin/g++ \"$@\"\n", log.string()));
  test::fs::permissions(wrapper, test::fs::perms::owner_all);
  place.folder().write("work/fibula.toml", fmt::format("[lane.x]\ncompiler = \"{}\"\n", wrapper.string()));
  const auto calls = [&] {
    test::fs::remove(log);
    EXPECT_EQ(place.fibula("fit").status, 0);
    const std::string text = test::read(log);
    return std::count(text.begin(), text.end(), '\n');
  };
  EXPECT_EQ(calls(), 2) << "two runs at most";
  EXPECT_EQ(calls(), 0);
  place.folder().write("bin/g++", test::read(wrapper) + "# a new version\n");
  EXPECT_EQ(calls(), 2) << "the compiler is another one now";
}

TEST(Toolchain, LanesThatServeNothingAreToldWithTheirLine) {
  const test::Workplace place;
  struct Case {
    const char* project;
    const char* says;
    const char* remedy;
  };
  const Case cases[] = {
      {"[lane.a]\ncompiler = \"g++\"\n[lane.a]\ncompiler = \"gcc\"\n", "fibula.toml:3: is not valid TOML",
       "two tables or keys have one name"},
      {"[lane.a]\ncompiler = \"g++\"\nflags = [\"-mno-such\"]\n",
       "fibula.toml:1: lane a: compiler g++ refuses the lane's flags", "correct the flags"},
      {"[lane.a]\ncompiler = \"no-such-g++\"\n", "fibula.toml:1: lane a: compiler no-such-g++ not found", "install it"},
#ifndef FIBULA_NATIVE_ONLY
      {"[[output]]\nname = \"x\"\nkind = \"shared-library\"\nsources = [\"*.c\"]\n[lane.a]\ncompiler = \"avr-gcc\"\n",
       "fibula.toml:5: lane a can make none of the outputs", "remove the lane"},
#endif
  };
  for (const auto& c : cases) {
    place.folder().write("work/fibula.toml", c.project);
    place.folder().write("work/x.c", "int x;\n");
    const auto ran = place.fibula("fit");
    EXPECT_NE(ran.status, 0);
    EXPECT_NE(ran.err.find(c.says), std::string::npos) << ran.err;
    EXPECT_NE(ran.err.find(c.remedy), std::string::npos) << ran.err;
  }
}

}  // namespace
