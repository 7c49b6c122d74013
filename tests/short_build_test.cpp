/// Builds after small changes: which of them plan, what they run, and that what they make is what a clean build makes.
#include "support/situations.hpp"

#include <fibula/build.hpp>

#include <gtest/gtest.h>

#include <cstdlib>
#include <string>
#include <vector>

using test::Files;
using test::Workplace;

namespace {

/// An edit of the project below, by a shell in its folder, and the build after it.
struct SmallChange {
  const char* what;
  std::string command;
  bool planned;
  std::vector<std::string> steps;  ///< "compile tide.c"
  bool good = true;
};

const Files project = {
    {"fibula.toml",
     "[[output]]\nname = \"log\"\nsources = [\"main.c\", \"tide.c\", \"moon.c\"]\nheaders = [\"include\"]\n"
     "uses = [\"gauge\"]\n[[output]]\nname = \"gauge\"\nkind = \"shared-library\"\nsources = [\"gauge.c\"]\n"
     "[lane.desk]\ncompiler = \"gcc\"\n"},
    {"include/tide.h", "int tide(int hour);\n#define HIGH 2\n"},
    {"main.c",
     "#include <tide.h>\nint gauge(void), moon(void);\n"
     "int main(void) { return tide(0) + gauge() + moon() > 90; }\n"},
    {"tide.c", "#include <tide.h>\nint tide(int hour) { return hour + HIGH; }\n"},
    {"moon.c", "int moon(void) { return 1; }\nint unused(void) { return 2; }\n"},
    {"gauge.c", "int gauge(void) { return 3; }\n"}};

/// Each begins with what the one before left; one that is not good is taken back and built.
const SmallChange small_changes[] = {
    {"a body", "sed -i 's/hour +/1 + hour +/' tide.c", false, {"compile tide.c", "link log"}},
    {"only a comment", "echo '// high' >> tide.c", false, {"compile tide.c"}},
    {"saved under a new name, with a file for a moment beside it",
     "cp tide.c x && touch y && sed -i 's/1 + hour/2 + hour/' x && mv x tide.c && rm y",
     false,
     {"compile tide.c", "link log"}},
    {"two sources by their header",
     "sed -i 's/HIGH 2/HIGH 3/' include/tide.h",
     false,
     {"compile main.c", "compile tide.c", "link log"}},
    {"of a library of its own", "sed -i 's/3/4/' gauge.c", false, {"compile gauge.c", "link gauge", "link log"}},
    {"a name that nobody else knows", "echo 'int high;' >> tide.c", false, {"compile tide.c", "link log"}},
    {"and gone again", "sed -i '$d' tide.c", false, {"compile tide.c", "link log"}},
    {"a name that was there, and that it has to itself",
     "sed -i '/unused/d' moon.c",
     false,
     {"compile moon.c", "link log"}},
    {"something more is asked for",
     "echo 'int rand(void); int dice(void) { return rand(); }' >> moon.c",
     true,
     {"compile moon.c", "link log"}},
    {"no name that others ask for",
     "sed -i 's/int dice(void) { return rand(); }/int dice(void) { return 0; }/' moon.c",
     true,
     {"compile moon.c", "link log"}},
    {"asked for again",
     "sed -i 's/int dice(void) { return 0; }/int dice(void) { return rand(); }/' moon.c",
     true,
     {"compile moon.c", "link log"}},
    {"a name that others ask for",
     "echo 'int rand(void) { return 4; }' >> tide.c",
     true,
     {"compile tide.c", "link log"}},
    {"a name for the first time", "echo 'int ebb;' >> tide.c", false, {"compile tide.c", "link log"}},
    {"and once more elsewhere", "echo 'int ebb;' >> moon.c", true, {"compile moon.c"}, false},
    {"what is no C", "echo 'int x = ;' >> tide.c", true, {"compile tide.c"}, false},
    {"a new source",
     "echo 'int more;' > new.c && sed -i 's/\"moon.c\"/\"moon.c\", \"new.c\"/' fibula.toml",
     true,
     {"compile new.c", "link log"}},
    {"a section with a name of its own",
     "echo '__attribute__((section(\"tides\"), used)) static int t = 1;' >> tide.c",
     true,
     {"compile tide.c", "link log"}},
    {"a product that was damaged",
     "echo x >> .fibula/desk/bin/log && sed -i 's/2 + hour/3 + hour/' tide.c",
     true,
     {"compile tide.c", "link log"}},
};

std::vector<std::string> steps_of(const fibula::BuildReport& report) {
  std::vector<std::string> steps;
  for (const auto& step : report.steps) steps.push_back(std::string(to_string(step.kind)) + " " + step.subject);
  std::sort(steps.begin(), steps.end());
  return steps;
}

fibula::Result<fibula::BuildReport> build_desk(const Workplace& place) {
  const auto read = fibula::Project::open(place / "work");
  return fibula::build(*read, read->lanes().front(), fibula::Shelf::at(place.shelf()));
}

TEST(ShortBuild, PlansWhereLinksCouldBeOthers) {
  const Workplace place;
  test::write_all(place, project);
  // A header that was written a moment before the build counts as changed while it was read.
  place.shell("sleep 0.1");
  ASSERT_TRUE(build_desk(place)->good);
  for (const auto& edit : small_changes) {
    SCOPED_TRACE(edit.what);
    ASSERT_EQ(place.shell("rm -rf kept && mkdir kept && cp -p *.c fibula.toml kept && " + edit.command).status, 0);
    const auto report = build_desk(place);
    ASSERT_TRUE(report) << render(report.error());
    EXPECT_EQ(report->good, edit.good);
    EXPECT_EQ(report->fit.has_value(), edit.planned);
    EXPECT_EQ(steps_of(*report), edit.steps);
    if (!edit.good) {
      ASSERT_EQ(place.shell("cp kept/* .").status, 0);
      EXPECT_TRUE(build_desk(place)->good) << "taken back";
      continue;
    }
    EXPECT_TRUE(build_desk(place)->steps.empty()) << "once more";
    const auto same = place.shell(
        "rm -rf clean && mkdir clean && cp -r *.c include fibula.toml clean && cd clean && "
        "$FIBULA build && cmp .fibula/desk/bin/log ../.fibula/desk/bin/log && "
        "cmp .fibula/desk/bin/libgauge.so ../.fibula/desk/bin/libgauge.so");
    EXPECT_EQ(same.status, 0) << same.all();
  }
}

/// What it makes lies at fixed places, in sizes that the plan judges.
TEST(ShortBuild, PlansForScripts) {
  const Workplace place;
  test::write_all(place, {{"main.c", "int main(void) { return 0; }\n"},
                          {"place.ld", "SECTIONS { .kept : { *(.kept) } } INSERT AFTER .data;\n"},
                          {"fibula.toml", test::one_program + "linker-script = \"place.ld\"\n" + test::desk}});
  ASSERT_TRUE(build_desk(place)->good);
  ASSERT_EQ(place.shell("sed -i 's/0/1/' main.c").status, 0);
  EXPECT_TRUE(build_desk(place)->fit.has_value());
}

/// A project that is handed on, with all that builds left in it, brings no commands with it.
TEST(ShortBuild, WhatRanIsKeptByTheUser) {
  const Workplace place;
  test::write_all(place, project);
  place.shell("sleep 0.1");
  ASSERT_TRUE(build_desk(place)->good);
  ASSERT_EQ(place.shell("sed -i 's/hour +/1 + hour +/' tide.c").status, 0);
  ::setenv("FIBULA_CACHE", (place / "another").c_str(), 1);
  EXPECT_TRUE(build_desk(place)->fit.has_value()) << "of another user's cache";
  ::unsetenv("FIBULA_CACHE");
}

}  // namespace
