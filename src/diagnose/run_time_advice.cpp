#include "diagnose/run_time_advice.hpp"

#include "diagnose/library_advice.hpp"
#include "diagnose/near_files.hpp"
#include "stage/staged_list.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

/// In a folder that was staged the list tells what was there.
bool was_staged(Finding& finding, const std::string& name, const fs::path& program) {
  const fs::path file = program.parent_path() / staged_list_name;
  const auto list = read_staged_list(file);
  if (program.empty() || !list || !list->contains(name)) return false;
  finding.because.push_back(
      fmt::format("{} lists it: it was beside the program when the folder was made", file.string()));
  finding.remedy = fmt::format("put it back: in the project, fibula stage --into {}", program.parent_path().string());
  return true;
}

}  // namespace

void advise_bringing(Finding& finding, const std::string& name, const fs::path& program,
                     const ExplainContext& context) {
  if (was_staged(finding, name, program)) return;
  const auto known = run_time_file_on(context.shelf, context.cache, name);
  if (!known) {
    finding.remedy =
        "take the library that it belongs to, attach it, and build with fibula build: that puts it beside the program";
    return;
  }
  const auto& [card, file] = *known;
  finding.culprits.push_back((card.root / file).string());
  finding.because.push_back(fmt::format("{} {} on the shelf has it", card.name, card.version));
  const bool used = is_attached(context.project, card.name);
  if (!used) finding.changes.push_back({.kind = ProjectChange::Kind::attach, .name = card.name});
  finding.edit = used ? "fibula build" : "fibula attach " + card.name;
  finding.remedy =
      used ? fmt::format("{} puts it beside the program; fibula stage --into DIR makes a folder with everything",
                         finding.edit)
           : fmt::format("attach it: {}; fibula build then puts it beside the program", finding.edit);
}

}  // namespace fibula
