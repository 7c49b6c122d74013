/// What a project makes itself: static and shared libraries beside programs; and what is put before compilers and
/// programs.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

/// A program that uses a library of the same project, of the kind given.
void write_project(const Workplace& place, const std::string& kind, const std::string& more = "") {
  place.folder().write("work/gauge/include/gauge.h",
                       "#ifdef __cplusplus\nextern \"C\"\n#endif\nint gauge_level(void);\n");
  place.folder().write("work/gauge/gauge.c", "#include <gauge.h>\nint gauge_level(void) { return 42; }\n");
  place.folder().write("work/src/main.cpp",
                       "#include <cstdio>\n#include <gauge.h>\nint main(int argc, char **argv) { std::printf(\"level "
                       "%d %s\\n\", gauge_level(), argc > 1 ? argv[1] : \"\"); }\n");
  place.folder().write("work/fibula.toml",
                       fmt::format("{}[[output]]\nname = \"log\"\nsources = [\"src/*.cpp\"]\nuses = [\"gauge\"]\n\n"
                                   "[[output]]\nname = \"gauge\"\nkind = \"{}\"\nsources = [\"gauge/*.c\"]\nheaders = "
                                   "[\"gauge/include\"]\n\n[lane.desk]\ncompiler = \"g++\"\n",
                                   more, kind));
}

std::vector<std::string> steps_of(const nlohmann::json& built) {
  std::vector<std::string> steps;
  for (const auto& step : built["lanes"][0]["steps"])
    steps.push_back(step["kind"].get<std::string>() + " " + step["subject"].get<std::string>());
  return steps;
}

class OwnLibrary : public testing::TestWithParam<const char*> {};

TEST_P(OwnLibrary, IsBuiltBeforeItsUserAndUsedByIt) {
  const Workplace place;
  write_project(place, GetParam());
  const auto first = place.fibula("build --run -- high");
  EXPECT_EQ(first.status, 0) << first.all();
  EXPECT_TRUE(first.out.ends_with("level 42 high\n")) << first.out;
  EXPECT_TRUE(steps_of(place.fibula_json("build")).empty());
  place.folder().write("work/gauge/gauge.c", "#include <gauge.h>\nint gauge_level(void) { return 43; }\n");
  const auto again = steps_of(place.fibula_json("build"));
  ASSERT_GE(again.size(), 2U);
  EXPECT_EQ(again[0], "compile gauge/gauge.c");
  EXPECT_TRUE(place.fibula("build --run").out.ends_with("level 43 \n"));
  // The results move together and still find each other.
  test::fs::rename(place / "work/.fibula/desk/bin", place / "elsewhere");
  EXPECT_EQ(test::must("./log", place / "elsewhere"), "level 43 \n");
}

INSTANTIATE_TEST_SUITE_P(Kinds, OwnLibrary, testing::Values("static-library", "shared-library"),
                         [](const auto& row) { return std::string(row.param).substr(0, 6); });

TEST(Outputs, AnObjectThatLeftTheProjectLeavesItsArchive) {
  const Workplace place;
  write_project(place, "static-library");
  place.folder().write("work/gauge/old.c", "int gauge_old(void) { return 1; }\n");
  ASSERT_EQ(place.fibula("build").status, 0);
  test::must("rm gauge/old.c", place / "work");
  ASSERT_EQ(place.fibula("build").status, 0);
  EXPECT_EQ(test::must("ar t .fibula/desk/libgauge.a", place / "work"), "gauge.c.o\n");
}

TEST(Outputs, CompilesGoThroughWhatTheProjectSays) {
  const Workplace place;
  const auto wrapper = place.folder().write("through", "#!/bin/sh\necho \"$2\" >> calls\nexec \"$@\"\n");
  test::fs::permissions(wrapper, test::fs::perms::owner_all);
  write_project(place, "static-library", fmt::format("compile-through = [\"{}\"]\n", wrapper.string()));
  ASSERT_EQ(place.fibula("build").status, 0);
  const std::string calls = test::read(place / "work/calls");
  EXPECT_EQ(std::count(calls.begin(), calls.end(), '\n'), 2) << "two compiles, and neither archive nor link";
}

TEST(Outputs, ProgramsStartThroughTheLanesRunner) {
  const Workplace place;
  write_project(place, "static-library");
  test::must("echo 'start-through = \"env LEVEL=1 nice\"' >> fibula.toml", place / "work");
  EXPECT_TRUE(place.fibula("build --run -- x").out.ends_with("level 42 x\n"));
}

TEST(Outputs, AFailedCompileStopsTheBuildAndIsTold) {
  const Workplace place;
  write_project(place, "static-library");
  place.folder().write("work/src/main.cpp", "int main() { return undeclared; }\n");
  const auto built = place.fibula_json("build -j 1");
  EXPECT_FALSE(built["lanes"][0]["good"]);
  EXPECT_EQ(built["lanes"][0]["findings"][0]["cause"], "not-about-libraries");
  EXPECT_FALSE(test::fs::exists(place / "work/.fibula/desk/bin/log"));
  EXPECT_EQ(place.fibula("build").status, 1);
}

/// A record that is no record costs a build; of one that is cut or damaged what stands before still counts.
TEST(Outputs, ADamagedRecordOnlyCostsTime) {
  const Workplace place;
  write_project(place, "static-library");
  ASSERT_EQ(place.fibula("build").status, 0);
  const std::string whole = test::read(place / "work/.fibula/desk/record");
  for (const std::string& damaged : {std::string(), std::string("{"), "another form 9\n" + whole}) {
    place.folder().write("work/.fibula/desk/record", damaged);
    EXPECT_EQ(steps_of(place.fibula_json("build")).size(), 4U) << damaged.size();
  }
  for (size_t at = 20; at < whole.size(); at += whole.size() / 13) {
    std::string flipped = whole;
    flipped[at] ^= 0x20;
    for (const auto& damaged : {flipped, whole.substr(0, at)}) {
      place.folder().write("work/.fibula/desk/record", damaged);
      EXPECT_EQ(place.fibula("build --run").status, 0);
      EXPECT_TRUE(steps_of(place.fibula_json("build")).empty());
    }
  }
}

TEST(Outputs, TheProgramsOwnStatusIsTheAnswer) {
  const Workplace place;
  place.folder().write("work/main.c", "int main(void) { return 7; }\n");
  place.folder().write("work/fibula.toml",
                       "[[output]]\nname = \"x\"\nsources = [\"main.c\"]\n[lane.desk]\ncompiler = \"gcc\"\n");
  const auto ran = place.fibula("build --run");
  EXPECT_EQ(ran.status, 7);
  EXPECT_NE(ran.err.find("the program ended with status 7 in lane desk"), std::string::npos) << ran.err;
}

TEST(Outputs, EachProgramIsStartedOrTheOneThatIsNamed) {
  const Workplace place;
  std::string project;
  for (const auto* name : {"buoy", "quay"}) {
    place.folder().write(
        fmt::format("work/{}.c", name),
        fmt::format("#include <stdio.h>\nint main(void) {{ puts(\"{0} starts\"); return \"{0}\"[0] == 'b'; }}\n",
                    name));
    project += fmt::format("[[output]]\nname = \"{0}\"\nsources = [\"{0}.c\"]\n", name);
  }
  place.folder().write("work/fibula.toml", project + "[lane.desk]\ncompiler = \"gcc\"\n");
  const auto all = place.fibula("build --run");
  EXPECT_EQ(all.status, 1);
  EXPECT_NE(all.out.find("buoy starts\nquay starts\n"), std::string::npos) << all.all();
  EXPECT_NE(all.err.find("buoy ended with status 1 in lane desk"), std::string::npos) << all.err;
  const auto one = place.fibula("build --run --output quay");
  EXPECT_EQ(one.status, 0);
  EXPECT_EQ(one.out.find("buoy starts"), std::string::npos) << one.out;
  const auto none = place.fibula("build --run --output pier");
  EXPECT_EQ(none.status, 2);
  EXPECT_NE(none.err.find("makes no program called pier\n  remedy: its programs are buoy, quay"), std::string::npos)
      << none.err;
}

}  // namespace
