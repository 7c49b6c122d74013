#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <fibula/shelf.hpp>

using namespace fibula;
using test::Workplace;

namespace {

TEST(Shelf, TakesALibraryOnceAndKeepsItsLinks) {
  const Workplace place;
  const auto tide = (place.prebuilt() / "tidecalc-2.1.0").string();
  const auto dry = place.fibula("take --dry-run " + tide);
  EXPECT_EQ(dry.status, 0);
  EXPECT_TRUE(place.shelf_entries().empty()) << "a dry run writes nothing";
  ASSERT_EQ(place.fibula("take " + tide).status, 0);
  const auto files = place.shelf() / "tidecalc/2.1.0/files";
  EXPECT_TRUE(test::fs::is_symlink(files / "lib/libtidecalc.so"));
  EXPECT_EQ(test::fs::read_symlink(files / "lib/libtidecalc.so.2"), "libtidecalc.so.2.1.0");
  test::must("sha256sum --check --quiet ../contents.sha256", files);
  EXPECT_TRUE(place.fibula_json("take " + tide)["already_there"]);
  const auto card = read_card(place.shelf() / "tidecalc/2.1.0");
  ASSERT_TRUE(card);
  EXPECT_EQ(card->licence, "MIT");
  ASSERT_EQ(card->variants.size(), 2U);
  EXPECT_EQ(card->variants[0].link, std::vector<std::string>{"lib/libtidecalc.a"});
  EXPECT_EQ(card->variants[1].link, std::vector<std::string>{"lib/libtidecalc.so"});
  EXPECT_EQ(card->variants[1].runtime, std::vector<std::string>{"lib/libtidecalc.so.2"});
}

TEST(Shelf, AnotherBuildOfAVersionNeedsToBeAskedFor) {
  const Workplace place;
  const auto tide = place.prebuilt() / "tidecalc-2.1.0";
  ASSERT_EQ(place.fibula("take " + tide.string()).status, 0);
  const auto before = place.shelf_entries();
  place.folder().write("prebuilt/tidecalc-2.1.0/include/tidecalc.h",
                       test::read(tide / "include/tidecalc.h") + "/* new */\n");
  const auto refused = place.fibula("take " + tide.string());
  EXPECT_EQ(refused.status, 1);
  EXPECT_NE(refused.err.find("--replace"), std::string::npos);
  EXPECT_EQ(place.shelf_entries(), before);
  EXPECT_EQ(place.fibula("take --replace " + tide.string()).status, 0);
  EXPECT_EQ(place.fibula("take --version 2.2.0 " + tide.string()).status, 0);
  EXPECT_EQ(place.fibula_json("shelf")["libraries"].size(), 2U);
  EXPECT_EQ(place.fibula("shelf drop tidecalc 2.1.0").status, 0);
  EXPECT_EQ(place.fibula("shelf drop tidecalc 2.1.0").status, 1);
  EXPECT_EQ(place.fibula_json("shelf")["libraries"][0]["version"], "2.2.0");
}

TEST(Shelf, CheckTellsWhatChangedOrIsMissing) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  EXPECT_EQ(place.fibula("shelf check").status, 0);
  const auto files = place.shelf() / "tidecalc/2.1.0/files";
  test::must("echo x >> include/tidecalc.h; rm lib/libtidecalc.a", files);
  const auto report = place.fibula_json("shelf check tidecalc");
  std::map<std::string, std::string> changes;
  for (const auto& change : report["changes"]) changes[change["file"]] = change["what"];
  EXPECT_EQ(changes,
            (std::map<std::string, std::string>{{"include/tidecalc.h", "damaged"}, {"lib/libtidecalc.a", "missing"}}));
  EXPECT_EQ(place.fibula("shelf check").status, 1);
}

TEST(Shelf, EightProcessesTakingAtOnceDoNoHarm) {
  const Workplace place;
  const auto tide = (place.prebuilt() / "tidecalc-2.1.0").string();
  const std::string take =
      fmt::format("FIBULA_SHELF='{}' '{}' take '{}' --version", place.shelf().string(), FIBULA_TOOL, tide);
  std::string all;
  for (int i = 0; i < 8; ++i) all += fmt::format("{} {}.0 & ", take, i % 4 + 1);
  test::must(all + "wait");
  const auto shelf = Shelf::at(place.shelf());
  const auto versions = shelf.versions("tidecalc");
  ASSERT_EQ(versions->size(), 4U);
  for (const auto& card : *versions) EXPECT_TRUE(shelf.check(card)->empty());
  for (const auto& entry : place.shelf_entries()) EXPECT_FALSE(entry.starts_with(".arriving") || entry.starts_with(".leaving")) << entry << " was left behind";
}

TEST(Shelf, CardsThatPeopleEditAreChecked) {
  struct Case {
    const char* from;
    const char* to;
    const char* message;
  };
  for (const auto& c : {Case{"licence =", "license =", "unknown key license in the card"},
                        Case{"\"lib/libtidecalc.a\"", "\"../../libtidecalc.a\"", "leads out of the library"},
                        Case{"linkage = \"static\"", "linkage = \"both\"", "linkage in [[variant]] is \"both\""},
                        Case{"name =", "name", "is not valid TOML"}}) {
    SCOPED_TRACE(c.to);
    const Workplace place;
    ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
    const auto file = place.shelf() / "tidecalc/2.1.0/card.toml";
    std::string text = test::read(file);
    text.replace(text.find(c.from), std::string(c.from).size(), c.to);
    place.folder().write("shelf/tidecalc/2.1.0/card.toml", text);
    const auto ran = place.fibula("shelf");
    EXPECT_EQ(ran.status, 3);
    EXPECT_NE(ran.err.find(c.message), std::string::npos) << ran.err;
    EXPECT_NE(ran.err.find(file.string() + ": at line "), std::string::npos) << ran.err;
  }
}

}  // namespace
