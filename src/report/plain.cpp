/// The report as Markdown and as JSON.
#include "base/json_text.hpp"
#include "base/text.hpp"
#include "report/rows.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace fibula {
namespace {

using nlohmann::ordered_json;

/// What would end a cell of a table.
std::string in_cell(std::string_view text) {
  std::string result;
  for (const char c : text) {
    if (c == '|') result += '\\';
    result += c == '\n' ? ' ' : c;
  }
  return result;
}

ordered_json row_json(const Report& report, const ReportRow& row) {
  ordered_json lanes = ordered_json::array();
  const ChosenLibrary* any = nullptr;
  for (size_t i = 0; i < row.cells.size(); ++i) {
    const ChosenLibrary* library = row.cells[i].library;
    if (library == nullptr) continue;
    any = library;
    lanes.push_back({{"lane", report.fits[i].lane.name},
                     {"verdict", to_string(library->verdict)},
                     {"version", library->version},
                     {"variant", library->variant}});
  }
  return {{"library", row.library},
          {"licence", any == nullptr ? "" : any->licence},
          {"origin", any == nullptr ? "" : any->origin},
          {"digest", any == nullptr ? "" : any->digest},
          {"lanes", lanes}};
}

}  // namespace

std::string Report::json() const {
  ordered_json libraries = ordered_json::array(), said = ordered_json::array(), changed = ordered_json::array(),
               bytes = ordered_json::array(), needs = ordered_json::array(), lanes = ordered_json::array();
  for (const auto& fit : fits) lanes.push_back({{"lane", fit.lane.name}, {"verdict", to_string(fit.verdict())}});
  for (const auto& row : rows_of(*this)) libraries.push_back(row_json(*this, row));
  for (const auto& [misfit, in] : misfits_of(*this))
    said.push_back({{"rule", misfit.rule},
                    {"verdict", to_string(misfit.verdict)},
                    {"library", misfit.library},
                    {"subject", misfit.subject},
                    {"evidence", misfit.evidence},
                    {"remedy", misfit.remedy},
                    {"lanes", in}});
  for (const auto& change : changes)
    changed.push_back(
        {{"lane", change.lane}, {"library", change.library}, {"before", change.before}, {"after", change.after}});
  for (const auto& one : added)
    bytes.push_back({{"lane", one.lane}, {"output", one.output}, {"library", one.library}, {"bytes", one.bytes}});
  for (const auto& edge : edges) needs.push_back({{"from", edge.from}, {"to", edge.to}, {"system", edge.to_system}});
  return json_text(ordered_json{{"schema", "fibula.report/1"},
                                {"project", project},
                                {"lanes", lanes},
                                {"libraries", libraries},
                                {"misfits", said},
                                {"changes", changed},
                                {"added", bytes},
                                {"needs", needs}},
                   1);
}

std::string Report::markdown() const {
  std::string text = fmt::format("# {}\n\n| library |", project), rule = "| --- |";
  for (const auto& fit : fits) {
    text += fmt::format(" {} |", in_cell(fit.lane.name));
    rule += " --- |";
  }
  text += "\n" + rule + "\n";
  for (const auto& row : rows_of(*this)) {
    text += fmt::format("| {} |", in_cell(row.library));
    for (const auto& cell : row.cells)
      text += cell.library == nullptr ? " not used |"
                                      : fmt::format(" {}: {} |", to_string(cell.library->verdict), in_cell(cell.text));
    text += "\n";
  }
  const auto said = misfits_of(*this);
  text += "\n## What does not fit\n\n";
  if (said.empty()) text += "Nothing stands against any lane.\n";
  for (const auto& [misfit, lanes] : said)
    text += fmt::format("- **{}** ({}, in {}): {}. Do: {}\n", misfit.library.empty() ? misfit.subject : misfit.library,
                        misfit.rule, text::join(lanes, ", "), text::join(misfit.evidence, "; "),
                        misfit.remedy.empty() ? "nothing is known" : misfit.remedy);
  if (!changes.empty()) text += "\n## Since the lock\n\n";
  for (const auto& change : changes)
    text +=
        fmt::format("- {} in {}: {} -> {}\n", change.library, change.lane,
                    change.before.empty() ? "nothing" : change.before, change.after.empty() ? "nothing" : change.after);
  if (!added.empty()) text += "\n## What each library adds, in bytes\n\n";
  for (const auto& one : added)
    text += fmt::format("- {} in {}: {} {}\n", one.output, one.lane,
                        one.library.empty() ? "the project itself" : one.library, one.bytes);
  return text;
}

}  // namespace fibula
