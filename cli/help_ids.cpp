#include "help_ids.hpp"

#include "print.hpp"

#include <fibula/answers.hpp>
#include <fibula/ids.hpp>

#include <fmt/format.h>

namespace cli {
namespace {

void print_list(const std::vector<std::vector<Cell>>& rows) {
  print_table(rows);
  print_line(styled("fibula help ID tells what each is known from, and what mends it", Style::faint));
}

}  // namespace

std::vector<std::string> id_names() {
  std::vector<std::string> names;
  for (const auto& id : fibula::all_ids()) names.emplace_back(id.name);
  return names;
}

void print_rules() {
  std::vector<std::vector<Cell>> rows;
  for (const auto& id : fibula::all_ids()) {
    if (id.rule) rows.push_back({{std::string(id.name), Style::strong}, {std::string(id.means)}});
  }
  print_list(rows);
}

void print_causes() {
  std::vector<std::vector<Cell>> rows;
  std::string_view stage;
  for (const auto& id : fibula::all_ids()) {
    if (id.stage.empty()) continue;
    // A stage is written where it begins.
    rows.push_back({{std::string(id.stage == stage ? "" : id.stage), Style::faint},
                    {std::string(id.name), Style::strong},
                    {std::string(id.means)}});
    stage = id.stage;
  }
  print_list(rows);
}

bool print_id(const std::string& name) {
  for (const auto& id : fibula::all_ids()) {
    if (id.name != name) continue;
    const std::string stage(id.stage);
    const std::string door = stage.empty() ? "a rule of fit"
                             : id.rule     ? fmt::format("a rule of fit, and a cause of a failed {}", stage)
                                           : fmt::format("a cause of a failed {}", stage);
    print_line(fmt::format("{}: {}", styled(name, Style::strong), door));
    print_table({{{"means", Style::faint}, {std::string(id.means)}},
                 {{"known from", Style::faint}, {std::string(id.evidence)}},
                 {{"remedy", Style::faint}, {std::string(id.remedy)}}});
    return true;
  }
  return false;
}

void print_ids_json(const std::string& name) {
  auto ids = fibula::all_ids();
  if (!name.empty()) std::erase_if(ids, [&](const fibula::Id& id) { return id.name != name; });
  print_json(fibula::answers::ids(ids));
}

}  // namespace cli
