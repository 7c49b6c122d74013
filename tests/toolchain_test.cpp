#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <fibula/lane.hpp>

using namespace fibula;

namespace {

TEST(Toolchain, EveryCompilerIsAsked) {
  struct Case {
    const char* compiler;
    std::vector<std::string> flags;
    Family family;
    Arch arch;
    int bits;
    bool is_static;
  };
  for (const auto& c : {Case{"g++", {}, Family::gcc, Arch::x86_64, 64, false},
                        {"g++", {"-m32"}, Family::gcc, Arch::x86, 32, false},
                        {"clang++", {}, Family::clang, Arch::x86_64, 64, false},
                        {"gcc", {"-static"}, Family::gcc, Arch::x86_64, 64, true}}) {
    SCOPED_TRACE(std::string(c.compiler) + (c.flags.empty() ? "" : c.flags[0]));
    const auto answer = ask({c.compiler, c.flags});
    ASSERT_TRUE(answer) << render(answer.error());
    EXPECT_EQ(answer->family, c.family);
    EXPECT_EQ(answer->target, (Target{Format::elf, c.arch, c.bits, Endian::little}));
    EXPECT_EQ(answer->static_link, c.is_static);
    EXPECT_FALSE(answer->include_directories.empty());
    EXPECT_FALSE(answer->library_directories.empty());
    const auto user = std::find_if(answer->link_steps.begin(), answer->link_steps.end(),
                                   [](const LinkStep& s) { return s.kind == LinkStep::Kind::user_inputs; });
    ASSERT_NE(user, answer->link_steps.end());
    EXPECT_NE(user, answer->link_steps.begin()) << "start files come first";
  }
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
      {"no-such-g++", {}, Code::missing_tool, "no such program"},
      {"g++", {"-mno-such-flag"}, Code::refused, "refuses the lane's flags: "},
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

}  // namespace
