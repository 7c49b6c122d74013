#include <fibula/project_change.hpp>

#include <gtest/gtest.h>

#include "support/support.hpp"

using Kind = fibula::ProjectChange::Kind;

namespace {

const std::string head = "[[output]]\nname = \"quay\"\nsources = [\"*.c\"]\n",
                  tail = "\n[lane.desk]\ncompiler = \"gcc\"\n";

/// A project of which one output has these lines.
struct Project {
  test::Folder folder;
  fibula::Shelf shelf;

  explicit Project(const std::string& lines = {}, const std::string& rest = tail)
      : shelf(*fibula::Shelf::at(folder / "shelf")) {
    folder.write("fibula.toml", head + lines + rest);
    folder.write("main.c", "#include <Quay.h>\r\nint main(void) { return 0; }");
  }
  auto make(const std::vector<fibula::ProjectChange>& changes) const {
    return fibula::make_changes(folder.path(), shelf, changes);
  }
  std::string text() const { return test::read(folder / "fibula.toml"); }
};

fibula::ProjectChange line(const Project& project, const std::string& before, const std::string& after) {
  return {.kind = Kind::line, .file = project.folder / "main.c", .line = 1, .before = before, .after = after};
}

}  // namespace

TEST(Changes, KeysAreEditedInWhateverLayoutTheyAre) {
  const fibula::ProjectChange add{.kind = Kind::add, .name = "quay", .key = "definitions", .value = "TIDE=1"},
      set{.kind = Kind::set, .name = "quay", .key = "standard", .value = "c17"};
  struct {
    fibula::ProjectChange change;
    std::string before, after;
  } const rows[] = {
      {add, "", "definitions = [\"TIDE=1\"]\n"},
      {add, "definitions = []\n", "definitions = [\"TIDE=1\"]\n"},
      {add, "definitions = [\"A\"] # mine\n", "definitions = [\"TIDE=1\", \"A\"] # mine\n"},
      {add, "definitions = [\n    \"A\", # [mine]\n]\n", "definitions = [\n    \"TIDE=1\",\n    \"A\", # [mine]\n]\n"},
      {add, "definitions = [ # none\n]\n", "definitions = [ # none\n  \"TIDE=1\",\n]\n"},
      {set, "", "standard = \"c17\"\n"},
      {set, "standard = \"c99\" # old\n", "standard = \"c17\" # old\n"},
  };
  for (const auto& row : rows) {
    const Project project(row.before);
    const auto made = project.make({row.change});
    ASSERT_TRUE(made) << row.before << made.error().message();
    EXPECT_EQ(project.text(), head + row.after + tail);
    ASSERT_TRUE(fibula::undo_changes(project.folder.path())) << row.before;
    EXPECT_EQ(project.text(), head + row.before + tail);
  }
}

TEST(Changes, OneThatCannotBeMadeChangesNothing) {
  const Project project;
  const fibula::ProjectChange good{.kind = Kind::set, .name = "quay", .key = "standard", .value = "c17"};
  const fibula::ProjectChange bad[] = {
      {.kind = Kind::set, .name = "pier", .key = "standard", .value = "c17"},
      {.kind = Kind::add, .name = "quay", .key = "no-such-key", .value = "x"},
      {.kind = Kind::attach, .name = "nowhere"},
      line(project, "#include <other.h>", "x"),
      {.kind = Kind::line, .file = project.folder / "../main.c", .line = 1, .before = "", .after = "x"},
      {.kind = Kind::line, .file = project.folder / "main.c", .line = 9, .before = "", .after = "x"},
  };
  for (const auto& change : bad) {
    EXPECT_FALSE(project.make({good, change})) << fibula::to_string(change, project.folder.path());
    EXPECT_EQ(project.text(), head + tail);
    EXPECT_FALSE(fibula::undo_changes(project.folder.path()));
  }
}

TEST(Changes, ALineKeepsItsEndingAndIsTakenBackOnlyWhileItIsAsItWasLeft) {
  const Project project;
  const std::string before = test::read(project.folder / "main.c");
  ASSERT_TRUE(project.make({line(project, "#include <Quay.h>", "#include <quay.h>")}));
  EXPECT_EQ(test::read(project.folder / "main.c"), "#include <quay.h>\r\nint main(void) { return 0; }");
  project.folder.write("main.c", "int main(void) { return 1; }\n");
  const auto undone = fibula::undo_changes(project.folder.path());
  ASSERT_FALSE(undone);
  EXPECT_NE(undone.error().hint.find("before-changes/files/main.c"), std::string::npos) << undone.error().hint;
  EXPECT_EQ(test::read(project.folder / ".fibula/before-changes/files/main.c"), before);
}
