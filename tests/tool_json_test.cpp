/// What `--json` prints keeps to the schemas in docs/schema.
#include "support/support.hpp"

#include <fibula/answers.hpp>

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;
namespace answers = fibula::answers;

namespace {

TEST(Json, EveryCommandKeepsToItsSchema) {
  const Workplace place;
  const auto libraries = place.prebuilt();
  const auto project = place.harbourlog();
  place.folder().write("work/bad.a", "<html></html>");
  place.folder().write("work/x.log", "main.c:1:10: fatal error: tidecalc.h: No such file or directory\n");
  struct Case {
    std::string schema, arguments;
  };
  const std::string tide = (libraries / "tidecalc-2.1.0").string();
  const Case cases[] = {
      {"inspect", "inspect ../work/bad.a --symbols " + tide},
      {"inspect", fmt::format("inspect --members {}/lib/libtidecalc.a", tide)},
      {"inspect", fmt::format("inspect --needs --symbols {}/lib/libtidecalc.so", tide)},
      {"inspect", "inspect nosuch"},
      {"inspect-for", "inspect --for g++ ../work/bad.a " + tide},
      {"take", "take --dry-run " + tide},
      {"take", "take " + tide},
      {"take", "take " + (libraries / "moonphase-1.3.0").string()},
      {"shelf", "shelf"},
      {"shelf", "shelf show tidecalc"},
      {"shelf", "shelf check"},
      {"attach", "attach tidecalc"},
      {"attach", "attach moonphase"},
      {"attach", "attach --undo"},
      {"attach", "attach moonphase"},
      {"lanes", "lanes"},
      {"lanes-add", "lanes --add desk32-debug --compiler g++ --flag=-m32"},
      {"begin", "begin ../begun --like ."},
      {"fit-diff", "fit --diff"},
      {"fit", "fit"},
      {"fit-why", "fit --why tidecalc"},
      {"build", "build"},
      {"report", "report"},
      {"help", "help"},
      {"help", "help order"},
      {"compare", "compare tidecalc/2.1.0 2.1.0"},
      {"compare", fmt::format("compare {0}/lib/libtidecalc.so {0}/lib/libtidecalc.so", tide)},
      {"parcel", "parcel tidecalc --untried --to ../parcel.tar.zst"},
      {"shelf", "shelf prune --days 0"},
      {"shelf", "shelf keys"},
      {"shelf", "shelf publish tidecalc --to ../other-shelf"},
      {"explain", "explain ../work/x.log"},
      {"stage", "stage --into ../staged --lane desk-release --licences"},
      {"stage-check", "stage --check ../staged"},
      {"detach", "detach moonphase"},
      {"build", "build --lane desk-debug"},
      {"build-why", "build --why src/main.cpp"},
      {"build-clean", "build --clean"},
      {"error", "attach nosuch"},
      {"error", "shelf show nosuch"},
      {"shelf", "shelf drop tidecalc 2.1.0"},
      {"fit", "fit"},
  };
  int number = 0;
  for (const auto& c : cases) {
    SCOPED_TRACE(c.arguments);
    const auto output = place.fibula_json(c.arguments, project);
    EXPECT_EQ(output["schema"], fmt::format("fibula.{}/1", c.schema)) << output.dump(1);
    const auto file = place.folder().write(fmt::format("json/{}.json", number++), output.dump());
    const auto valid = test::shell(fmt::format("'{}' '{}/tests/validate_schema.py' '{}/docs/schema/{}.json' '{}'",
                                               TEST_PYTHON, FIBULA_SOURCE, FIBULA_SOURCE, c.schema, file.string()));
    EXPECT_EQ(valid.status, 0) << valid.all();
  }
}

/// Programs that use the library have the same answers.
TEST(Json, IsTheLibrarysOwn) {
  const Workplace place;
  const auto tide = place.prebuilt() / "tidecalc-2.1.0";
  ASSERT_EQ(place.fibula("take " + tide.string()).status, 0);
  const auto shelf = fibula::Shelf::at(place.shelf());
  const auto cards = shelf.libraries();
  ASSERT_TRUE(cards);
  EXPECT_EQ(answers::libraries(shelf, *cards) + "\n", place.fibula("shelf --json").out);
  const auto archive = (tide / "lib/libtidecalc.a").string();
  const auto facts = fibula::inspect(archive);
  ASSERT_TRUE(facts);
  answers::Inspection inspection({.symbols = true});
  inspection.add(archive, *facts);
  EXPECT_FALSE(inspection.has_problems());
  EXPECT_EQ(inspection.text() + "\n", place.fibula("inspect --symbols --json " + archive).out);
  EXPECT_EQ(answers::error({.code = fibula::Code::absent, .what = "gone", .file = "a\xff"}),
            "{\n  \"schema\": \"fibula.error/1\",\n  \"code\": \"absent\",\n  \"what\": \"gone\",\n  \"file\": "
            "\"a\uFFFD\"\n}");
}

}  // namespace
