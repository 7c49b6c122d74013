/// What a person does, from a download to a program that runs, through the tool alone.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

constexpr const char* first_lines =
    "harbourlog, the next 1 days\n\nhigh waters\n  day   time   height\n    1  02:20   5.27 m\n";

/// The sample with its libraries taken and attached.
struct Harbour : Workplace {
  Harbour() {
    const auto libraries = prebuilt();
    for (const char* name : {"tidecalc-2.1.0", "moonphase-1.3.0"})
      EXPECT_EQ(fibula("take " + (libraries / name).string()).status, 0);
    project = harbourlog();
    for (const char* name : {"tidecalc", "moonphase"})
      EXPECT_EQ(fibula(std::string("attach ") + name, project).status, 0);
  }
  test::fs::path project;
};

TEST(Story, HarbourlogIsFittedBuiltAndRun) {
  const Harbour harbour;
  const auto fit = harbour.fibula_json("fit", harbour.project);
  ASSERT_EQ(fit["lanes"].size(), 2U);
  for (const auto& lane : fit["lanes"]) {
    EXPECT_EQ(lane["verdict"], "ok");
    ASSERT_EQ(lane["link_inputs"].size(), 1U);
    EXPECT_EQ(test::fs::path(lane["link_inputs"][0]["path"].get<std::string>()).filename(), "libtidecalc.a");
    EXPECT_FALSE(lane["link_inputs"][0]["why"].get<std::string>().empty());
  }
  const auto ran = harbour.fibula("build --lane desk-debug --run -- 1", harbour.project);
  EXPECT_EQ(ran.status, 0) << ran.all();
  EXPECT_NE(ran.out.find(first_lines), std::string::npos) << ran.out;
}

TEST(Story, NothingIsRebuiltWithoutCause) {
  const Harbour harbour;
  const auto steps = [&] {
    std::vector<std::string> found;
    const auto built = harbour.fibula_json("build --lane desk-release", harbour.project);
    EXPECT_TRUE(built["lanes"][0]["good"]) << built.dump(1);
    for (const auto& step : built["lanes"][0]["steps"])
      found.push_back(step["kind"].get<std::string>() + " " + step["subject"].get<std::string>() + ": " +
                      step["cause"].get<std::string>());
    std::sort(found.begin(), found.end());
    return found;
  };
  using Steps = std::vector<std::string>;
  EXPECT_EQ(steps().size(), 4U);
  EXPECT_EQ(steps(), Steps{});
  test::must("touch src/moon.cpp", harbour.project);
  EXPECT_EQ(steps(), Steps{}) << "touched, not changed";
  test::must("echo '// more' >> src/tables.hpp", harbour.project);
  EXPECT_EQ(steps(), (Steps{"compile src/main.cpp: tables.hpp changed", "compile src/moon.cpp: tables.hpp changed",
                            "compile src/tides.cpp: tables.hpp changed"}))
      << "a comment leaves the objects as they are";
  test::must("sed -i 's/c++17/c++20/' fibula.toml", harbour.project);
  EXPECT_EQ(steps()[0], "compile src/main.cpp: its command changed");
  test::must("rm .fibula/desk-release/bin/harbourlog", harbour.project);
  EXPECT_EQ(steps(), Steps{"link harbourlog: not made yet"});
}

class ByHand : public testing::TestWithParam<const char*> {};

TEST_P(ByHand, ResponseFilesAloneGiveTheSameProgram) {
  const Harbour harbour;
  for (const char* name : {"tidecalc", "moonphase"}) {
    if (std::string(name) == "tidecalc") {
      ASSERT_EQ(harbour.fibula(fmt::format("attach tidecalc --linkage {}", GetParam()), harbour.project).status, 0);
    }
  }
  ASSERT_EQ(harbour.fibula("fit", harbour.project).status, 0);
  const std::string by_hand =
      test::must("g++ src/*.cpp @.fibula/desk-debug/compile.rsp @.fibula/desk-debug/link.rsp -o hand && ./hand 1",
                 harbour.project);
  const auto built = harbour.fibula("build --lane desk-debug --run -- 1", harbour.project);
  ASSERT_EQ(built.status, 0) << built.all();
  EXPECT_TRUE(built.out.ends_with(by_hand)) << built.out;
  const std::string needed = test::must("readelf -d .fibula/desk-debug/bin/harbourlog", harbour.project);
  EXPECT_EQ(needed.find("libtidecalc.so.2") != std::string::npos, std::string(GetParam()) == "shared");
  // The folder moves, and the program still starts: nothing in it is absolute.
  test::fs::rename(harbour.project / ".fibula/desk-debug/bin", harbour.folder() / "moved");
  EXPECT_EQ(test::must("./harbourlog 1", harbour.folder() / "moved"), by_hand);
}

INSTANTIATE_TEST_SUITE_P(Linkages, ByHand, testing::Values("static", "shared"),
                         [](const auto& row) { return std::string(row.param); });

/// A library of the system, used where it is.
class System : public testing::TestWithParam<std::tuple<const char*, const char*>> {};

TEST_P(System, LibrariesAreTakenInPlaceAndLinked) {
  const auto [linkage, compiler] = GetParam();
  const Workplace place;
  const bool c = std::string(compiler) == "gcc";
  place.folder().write(c ? "work/main.c" : "work/main.cpp",
                       "#include <stdio.h>\n#include <sqlite3.h>\n#include <zlib.h>\nint main(void) {\n  sqlite3 "
                       "*db;\n  sqlite3_stmt *s;\n"
                       "  if (sqlite3_open(\":memory:\", &db)) return 1;\n  sqlite3_prepare_v2(db, \"select 40 + 2\", "
                       "-1, &s, NULL);\n  sqlite3_step(s);\n"
                       "  printf(\"%d %lx\\n\", sqlite3_column_int(s, 0), crc32(0, (const Bytef *)\"harbour\", 7));\n"
                       "  sqlite3_finalize(s);\n  return sqlite3_close(db);\n}\n");
  for (const char* name : {"zlib", "sqlite3"}) {
    const auto taken = place.fibula_json(fmt::format("take /usr --library {} --in-place", name));
    EXPECT_FALSE(taken["version"].get<std::string>().empty());
    EXPECT_EQ(place.fibula(fmt::format("attach {} --linkage {}", name, linkage)).status, 0);
  }
  test::must(fmt::format("sed -i 's/\"g++\"/\"{}\"/' fibula.toml", compiler), place / "work");
  const auto fit = place.fibula_json("fit --lane desk-debug");
  EXPECT_EQ(fit["lanes"][0]["verdict"], "ok") << fit.dump(1);
  EXPECT_TRUE(fit["lanes"][0]["include_directories"].empty()) << "the compiler searches /usr/include by itself";
  const auto ran = place.fibula("build --lane desk-debug --run");
  EXPECT_EQ(ran.status, 0) << ran.all();
  EXPECT_TRUE(ran.out.ends_with("\n42 6bd7d34d\n") || ran.out.find("\n42 ") != std::string::npos) << ran.out;
  const std::string needed = test::must("readelf -d .fibula/desk-debug/bin/work", place / "work");
  EXPECT_EQ(needed.find("libsqlite3.so.0") != std::string::npos, std::string(linkage) == "shared");
  // With the C driver nothing brings the mathematics that SQLite needs: it must be derived.
  const auto inputs = place.fibula_json("fit --lane desk-debug")["lanes"][0]["link_inputs"];
  const bool derived = inputs.back()["arguments"] == nlohmann::json{"-lm"};
  EXPECT_EQ(derived, c && std::string(linkage) == "static") << inputs.dump(1);
}

INSTANTIATE_TEST_SUITE_P(Ways, System,
                         testing::Combine(testing::Values("static", "shared"), testing::Values("g++", "gcc")),
                         [](const auto& row) {
                           return std::string(std::get<0>(row.param)) +
                                  (std::string(std::get<1>(row.param)) == "gcc" ? "_c" : "_cxx");
                         });

TEST(Story, OrderOfStaticLibrariesIsDerived) {
  const Workplace place;
  place.folder().write("work/main.c", "int mooring(void); int main(void) { return mooring() - 42; }\n");
  const auto library = [&](const char* name, const std::vector<std::string>& sources) {
    const auto folder = fmt::format("{}-1.0", name);
    place.folder().write(fmt::format("{}/include/{}.h", folder, name), fmt::format("int {}(void);", name));
    for (size_t i = 0; i < sources.size(); ++i) place.folder().write(fmt::format("{}/{}.c", folder, i), sources[i]);
    test::must(fmt::format("gcc -c *.c && rm -f *.a && ar rcs lib{}.a *.o && rm *.o", name), place / folder);
    ASSERT_EQ(place.fibula(fmt::format("take ../{} --replace", folder)).status, 0);
    ASSERT_EQ(place.fibula(fmt::format("attach {}", name)).status, 0);
  };
  const auto order = [&] {
    std::vector<std::string> now;
    const auto fit = place.fibula_json("fit --lane desk-debug");
    for (const auto& input : fit["lanes"][0]["link_inputs"])
      now.push_back(fmt::format("{} {}", input["library"].get<std::string>(), input["group"].get<int>()));
    return now;
  };
  const std::string mooring = "int buoy(void); int mooring(void) { return buoy(); }";
  const std::string weight = "int mooring_weight(void) { return 2; }";
  library("rope", {"int rope(void) { return 40; }"});
  library("buoy", {"int rope(void); int mooring_weight(void); int buoy(void) { return rope() + mooring_weight(); }"});
  library("mooring", {mooring, weight});
  EXPECT_EQ(place.fibula("build --lane desk-debug --run").status, 0);
  EXPECT_EQ(order(), (std::vector<std::string>{"buoy 1", "mooring 1", "rope 0"}));
  // The circle is there still, but one pass through it serves.
  library("mooring", {mooring + weight});
  EXPECT_EQ(place.fibula("build --lane desk-debug --run").status, 0);
  EXPECT_EQ(order(), (std::vector<std::string>{"mooring 0", "buoy 0", "rope 0"}));
}

TEST(Story, EditorsFindTheIncludes) {
  const Harbour harbour;
  ASSERT_EQ(harbour.fibula("fit", harbour.project).status, 0);
  const auto database = nlohmann::json::parse(test::read(harbour.project / "compile_commands.json"));
  ASSERT_EQ(database.size(), 6U);
  for (const auto& entry : database) {
    std::string command;
    for (const auto& word : entry["arguments"]) command += fmt::format("'{}' ", word.get<std::string>());
    test::must("mkdir -p \"$(dirname \"" + entry["output"].get<std::string>() + "\")\" && " + command,
               entry["directory"].get<std::string>());
  }
}

TEST(Story, NamesWithSpecialSignsWorkEverywhere) {
  const Workplace place;
  const std::string odd = "a b$c'd\"é#%";
  place.folder().write("work/main.c", "int main(void) { return 0; }\n");
  const auto folder = place / "work" / odd;
  test::fs::create_directories(folder);
  place.folder().write(test::fs::path("work") / odd / "main.c",
                       "#include <tide.h>\nint main(void) { return tide(); }\n");
  place.folder().write(test::fs::path("lib " + odd + "-1.0") / "include/tide.h", "int tide(void);\n");
  place.folder().write(test::fs::path("lib " + odd + "-1.0") / "tide.c", "int tide(void) { return 0; }\n");
  test::must("gcc -shared -fPIC tide.c -o libtide.so && rm tide.c", place / ("lib " + odd + "-1.0"));
  test::fs::rename(place / ("lib " + odd + "-1.0"), folder / "library");
  ASSERT_EQ(place.fibula("take library --name tide --version 1", folder).status, 0);
  ASSERT_EQ(place.fibula("attach tide", folder).status, 0);
  const auto ran = place.fibula("build --run", folder);
  EXPECT_EQ(ran.status, 0) << ran.all();
  test::must("gcc main.c @.fibula/desk-debug/compile.rsp @.fibula/desk-debug/link.rsp -o hand && ./hand", folder);
}

}  // namespace
