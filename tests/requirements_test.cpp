/// Libraries that require others: one version of each serves everybody, or a misfit says who asks for what.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using test::Workplace;

namespace {

/// A library of headers only, and what its card requires.
struct Entry {
  std::string name, version;
  std::vector<std::pair<std::string, std::string>> wishes = {};
};

void put_on_shelf(const Workplace& place, const Entry& entry) {
  std::string card = fmt::format("name = \"{}\"\nversion = \"{}\"\n", entry.name, entry.version);
  for (const auto& [library, range] : entry.wishes)
    card += fmt::format("\n[[requires]]\nlibrary = \"{}\"\nversion = \"{}\"\n", library, range);
  place.folder().write(fmt::format("shelf/{}/{}/card.toml", entry.name, entry.version), card);
  place.folder().write(fmt::format("shelf/{0}/{1}/files/{0}.h", entry.name, entry.version), "");
}

/// What was chosen, "bell 1.0, tide 1.5", or all that was said.
std::string outcome(const Workplace& place) {
  const auto ran = place.fibula("fit --json");
  if (ran.status != 0) return ran.all();
  std::string chosen;
  const auto answer = nlohmann::json::parse(ran.out);
  for (const auto& library : answer["lanes"][0]["libraries"])
    chosen += fmt::format("{}{} {}", chosen.empty() ? "" : ", ", library["library"].get<std::string>(),
                          library["version"].get<std::string>());
  return chosen;
}

struct RequirementRow {
  const char* title;
  std::vector<Entry> shelf;
  std::vector<std::string> attached;
  std::string outcome;
};

// clang-format off
const RequirementRow requirement_rows[] = {
    {"what is required is used", {{"tide", "1.0"}, {"bell", "1.0", {{"tide", ""}}}}, {"bell"}, "bell 1.0, tide 1.0"},
    {"the newest in the range", {{"tide", "1.0"}, {"tide", "1.5"}, {"tide", "2.0"}, {"bell", "1.0", {{"tide", "<2"}}}}, {"bell"}, "bell 1.0, tide 1.5"},
    {"both ranges count", {{"tide", "1.0"}, {"tide", "1.5"}, {"tide", "2.0"}, {"bell", "1.0", {{"tide", "<2"}}}, {"buoy", "1.0", {{"tide", ">=1.2"}}}}, {"bell", "buoy"}, "bell 1.0, buoy 1.0, tide 1.5"},
    {"an older one that can live with the others", {{"tide", "1.0"}, {"tide", "2.0"}, {"bell", "1.0", {{"tide", "<2"}}}, {"buoy", "1.0", {{"tide", ""}}}, {"buoy", "2.0", {{"tide", ">=2"}}}}, {"bell", "buoy"}, "bell 1.0, buoy 1.0, tide 1.0"},
    {"over several steps", {{"tide", "1.0"}, {"tide", "2.0"}, {"rope", "1.0", {{"tide", "<2"}}}, {"bell", "1.0", {{"rope", ""}}}}, {"bell", "tide"}, "bell 1.0, tide 1.0, rope 1.0"},
    {"a circle", {{"bell", "1.0", {{"buoy", ""}}}, {"buoy", "1.0", {{"bell", ""}}}}, {"bell"}, "bell 1.0, buoy 1.0"},
    {"a quarrel", {{"tide", "1.0"}, {"tide", "2.0"}, {"rope", "1.0", {{"tide", "<2"}}}, {"bell", "1.0", {{"rope", ""}}}, {"buoy", "1.0", {{"tide", ">=2"}}}}, {"bell", "buoy"},
     "rope 1.0 requires tide <2, bell 1.0 requires rope, and fibula.toml:8 attaches bell"},
    {"what nobody has", {{"bell", "1.0", {{"tide", ""}}}}, {"bell"}, "bell needs tide: its card says so"},
    {"a range that is none", {{"bell", "1.0", {{"tide", ">= 2"}}}}, {"bell"}, "version range \\\">= 2\\\" cannot be understood"},
};
// clang-format on

}  // namespace

TEST(Requirements, OneVersionServesAll) {
  for (const auto& row : requirement_rows) {
    SCOPED_TRACE(row.title);
    const Workplace place;
    for (const auto& entry : row.shelf) put_on_shelf(place, entry);
    std::string project = "[[output]]\nname = \"log\"\nkind = \"program\"\nsources = [\"main.c\"]\n";
    project += "[lane.desk]\ncompiler = \"gcc\"\n\n";
    for (const auto& name : row.attached) project += fmt::format("[library.{}]\n", name);
    place.folder().write("work/main.c", "int main(void) { return 0; }\n");
    place.folder().write("work/fibula.toml", project);
    const auto came = outcome(place);
    EXPECT_NE(came.find(row.outcome), std::string::npos) << came;
  }
}
