#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <regex>

using test::Workplace;

namespace {

/// Words that are nearly right are met with the right one.
TEST(Help, SaysWhatWasMeant) {
  const Workplace place;
  struct Row {
    const char* words;
    const char* said;
  };
  const Row rows[] = {
      {"atach tidecalc", "did you mean attach?"},   {"attach --linkge static tidecalc", "did you mean --linkage?"},
      {"fit --lanes desk", "did you mean --lane?"}, {"shelf pubish x", "did you mean publish?"},
      {"help lane", "did you mean lanes?"},         {"help tides", "there is no help on tides"},
      {"quay", "fibula --help lists the commands"}, {"report --format pdf", "pdf"},
  };
  for (const auto& row : rows) {
    SCOPED_TRACE(row.words);
    const auto ran = place.fibula(row.words);
    EXPECT_EQ(ran.status, 2) << ran.all();
    EXPECT_NE(ran.err.find(row.said), std::string::npos) << ran.all();
  }
}

/// What is not there is an error with a remedy, whichever command meets it.
TEST(Absent, IsToldWithWhatIsBesideIt) {
  const Workplace place;
  place.folder().write("work/tern.zip", "no archive");
  const char* const near[] = {"take tren.zip", "take --in-place tren.zip", "inspect tren.zip",
                              "inspect tren.zip --needs"};
  for (const char* words : near) {
    SCOPED_TRACE(words);
    const auto ran = place.fibula(words);
    EXPECT_EQ(ran.status, 3) << ran.all();
    EXPECT_NE(ran.err.find("did you mean tern.zip?"), std::string::npos) << ran.all();
  }
  for (const char* words :
       {"-C nowhere fit", "locate x --in nowhere", "stage --check nowhere", "compare nowhere elsewhere",
        "inspect nowhere", "fit --for nowhere.o", "begin --like nowhere"}) {
    SCOPED_TRACE(words);
    const auto ran = place.fibula(words);
    EXPECT_GE(ran.status, 1) << ran.all();
    EXPECT_NE(ran.err.find("remedy: "), std::string::npos) << ran.all();
  }
}

TEST(Help, TellsOfACommandEitherWay) {
  const Workplace place;
  for (const char* command : {"take", "shelf publish", "shelf keys make"}) {
    const auto ran = place.fibula(fmt::format("help {}", command));
    EXPECT_EQ(ran.status, 0) << ran.all();
    EXPECT_EQ(ran.out, place.fibula(fmt::format("{} --help", command)).out);
  }
}

/// The manual and the completions have every command, and bash completes names with them.
TEST(Help, IsMadeOfTheCommandsOwnWords) {
  const Workplace place;
  const auto listed = place.fibula("--help").out;
  const auto manual = place.fibula("help --as manual").out;
  for (const char* command : {"inspect", "take", "shelf publish", "compare", "parcel", "report", "explain", "help"}) {
    EXPECT_NE(manual.find(fmt::format(".SS {}", command)), std::string::npos) << command;
    EXPECT_NE(listed.find(std::string(command).substr(0, 5)), std::string::npos) << command;
  }
  for (size_t at = manual.find("\n."); at != std::string::npos; at = manual.find("\n.", at + 1)) {
    const std::string request = manual.substr(at + 2, manual.find_first_of(" \n", at + 2) - at - 2);
    EXPECT_TRUE(std::string(" TH SH SS TP PP nf fi ").find(" " + request + " ") != std::string::npos) << request;
  }
  for (const char* shell : {"zsh", "fish"})
    EXPECT_NE(place.fibula(std::string("help --as ") + shell).out.find("compare"), std::string::npos);

  place.folder().write("work/lamp/include/lamp.h", "#define LAMP 1\n");
  ASSERT_EQ(place.fibula("take lamp --version 1").status, 0);
  place.folder().write("work/app/src/main.c", "int main(void) { return 0; }\n");
  ASSERT_EQ(place.fibula("begin app").status, 0);
  const auto completed = [&](const std::string& words) {
    return place
        .shell(
            "ln -sf $FIBULA fibula && PATH=$PWD:$PATH && cd app && bash -c 'source <(fibula help --as bash); "
            "COMP_WORDS=(" +
            words + "); COMP_CWORD=$((${#COMP_WORDS[@]} - 1)); _fibula; echo \"${COMPREPLY[*]}\"'")
        .out;
  };
  EXPECT_EQ(completed("fibula com"), "compare\n");
  EXPECT_EQ(completed("fibula help soname-"), "soname-version\n");
  EXPECT_EQ(completed("fibula attach la"), "lamp\n");
  EXPECT_EQ(completed("fibula attach --und"), "--undo\n");
  EXPECT_EQ(completed("fibula shelf pub"), "publish\n");
  EXPECT_EQ(completed("fibula fit --lane desk-r"), "desk-release\n");

  // fish is asked itself; of zsh the functions that would show a list print it.
  const auto in_app = [&](const std::string& command) {
    return place.shell("PATH=$PWD:$PATH && cd app && " + command).out;
  };
  EXPECT_NE(
      in_app("fish -c 'fibula help --as fish | source; complete -C \"fibula fit --lane desk-r\"'").find("desk-release"),
      std::string::npos);
  EXPECT_NE(in_app("fish -c 'fibula help --as fish | source; complete -C \"fibula attach la\"'").find("lamp"),
            std::string::npos);
  const std::string shown =
      "zsh -f -c 'compadd() { print -l -- ${(P)argv[-1]} }; _files() { : }; _describe() { print -l -- ${(P)2} }; "
      "words=(fibula attach \"\"); CURRENT=3; source <(fibula help --as zsh)'";
  EXPECT_NE(in_app(shown).find("\nlamp\n"), std::string::npos);
}

/// On a terminal nothing runs over its edge, and no column is lost.
TEST(Help, FitsANarrowTerminal) {
  const Workplace place;
  const auto sample = place.prebuilt();
  ASSERT_EQ(place.fibula("take " + (sample / "tidecalc-2.1.0").string()).status, 0);
  std::vector<std::string> commands{"help rules", "help start",
                                    "inspect " + (sample / "tidecalc-2.1.0/lib/libtidecalc.so").string(),
                                    "locate tide_height --only-shelf --in " + sample.string(), "lanes"};
  for (const char* name : {"", "take", "shelf", "begin", "attach", "fit", "build", "explain", "compare", "help"})
    commands.push_back(std::string(name) + " --help");
  for (const auto& command : commands) {
    const auto ran = place.shell("COLUMNS=80 script -qec \"$FIBULA " + command + "\" /dev/null </dev/null");
    EXPECT_EQ(ran.status, 0) << command << ran.all();
    std::string line;
    for (const char c : ran.out) {
      if (c != '\n') line += c;
      if (c != '\n') continue;
      const std::string text = std::regex_replace(line, std::regex("\x1b\\[[0-9;]*[mK]|\r"), "");
      // A path is one word.
      EXPECT_TRUE(text.size() <= 80 || text.find('/') != std::string::npos) << command << ": " << text;
      EXPECT_FALSE(text.ends_with(' ')) << command << ": " << text;
      line.clear();
    }
  }
}

}  // namespace
