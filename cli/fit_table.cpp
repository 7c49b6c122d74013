#include "fit_table.hpp"

#include "for_people.hpp"
#include "misfits.hpp"
#include "print.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <span>

namespace cli {
namespace {

using Fits = std::span<const fibula::Fit>;

/// One mark and one word: what was chosen, or that nothing fits.
Cell cell(const fibula::Fit& fit, const std::string& library) {
  const auto found = std::find_if(fit.libraries.begin(), fit.libraries.end(),
                                  [&](const fibula::ChosenLibrary& chosen) { return chosen.name == library; });
  if (found == fit.libraries.end()) return {"-", Style::faint};
  if (!found->to_build.empty() && found->verdict != fibula::Verdict::misfit) return {"… to build", Style::faint};
  const std::string_view word = found->verdict == fibula::Verdict::misfit ? "misfit"
                                : !found->linkage                         ? "headers"
                                                                          : fibula::to_string(*found->linkage);
  return {fmt::format("{} {}", mark_of(found->verdict), word), style_of(found->verdict)};
}

/// The link as a whole: not judged where a library was refused, since that explains what would be missing.
Cell link_cell(const fibula::Fit& fit) {
  fibula::Verdict verdict = fibula::Verdict::ok;
  for (const auto& misfit : fit.link_misfits) verdict = std::max(verdict, misfit.verdict);
  const auto is_pending = [](const fibula::ChosenLibrary& library) { return !library.to_build.empty(); };
  const bool pending = std::any_of(fit.libraries.begin(), fit.libraries.end(), is_pending);
  if (pending && fit.verdict() != fibula::Verdict::misfit) return {"… then known", Style::faint};
  const auto is_refused = [](const fibula::ChosenLibrary& library) {
    return library.verdict == fibula::Verdict::misfit;
  };
  const bool refused = std::any_of(fit.libraries.begin(), fit.libraries.end(), is_refused);
  if (fit.link_misfits.empty() && refused) return {"-", Style::faint};
  return {fmt::format("{} {}", mark_of(verdict), fibula::to_string(verdict)), style_of(verdict)};
}

std::string version_of(const std::vector<fibula::Fit>& fits, const std::string& library) {
  for (const auto& fit : fits) {
    for (const auto& chosen : fit.libraries) {
      if (chosen.name == library && !chosen.version.empty()) return shown_version(chosen.version);
    }
  }
  return {};
}

/// The libraries that the project attaches, and behind them those that these require.
std::vector<std::string> row_names(const fibula::Project& project, const std::vector<fibula::Fit>& fits) {
  std::vector<std::string> names;
  const auto add = [&](const std::string& name) {
    if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
  };
  for (const auto& use : project.libraries()) add(use.name);
  for (const auto& fit : fits) {
    for (const auto& library : fit.libraries) add(library.name);
  }
  return names;
}

/// A library's name and version, or the heading above them.
using Stub = std::pair<Cell, Cell>;

/// Rows that are there only where something is to be said: of what the project's own sources include, and of what its
/// programs need when they run.
struct Extras {
  bool sources = false;
  bool start = false;

  explicit Extras(const std::vector<fibula::Fit>& fits) {
    for (const auto& fit : fits) {
      sources = sources || !fit.compile_misfits.empty();
      start = start || !fit.run_misfits.empty();
    }
  }
};

Cell verdict_cell(const std::vector<fibula::Misfit>& misfits) {
  fibula::Verdict verdict = fibula::Verdict::ok;
  for (const auto& misfit : misfits) verdict = std::max(verdict, misfit.verdict);
  return {fmt::format("{} {}", mark_of(verdict), fibula::to_string(verdict)), style_of(verdict)};
}

std::vector<Stub> stubs_of(const std::vector<std::string>& names, const std::vector<fibula::Fit>& fits) {
  std::vector<Stub> stubs{{{""}, {""}}};
  for (const auto& name : names) stubs.push_back({{name, Style::strong}, {version_of(fits, name), Style::faint}});
  const Extras extras(fits);
  if (extras.sources) stubs.push_back({{"sources", Style::faint}, {""}});
  stubs.push_back({{"link", Style::faint}, {""}});
  if (extras.start) stubs.push_back({{"start", Style::faint}, {""}});
  return stubs;
}

std::vector<Cell> column_of(const std::vector<std::string>& names, const fibula::Fit& fit, const Extras& extras) {
  std::vector<Cell> column{{fit.lane.name, Style::strong}};
  for (const auto& name : names) column.push_back(cell(fit, name));
  if (extras.sources) column.push_back(verdict_cell(fit.compile_misfits));
  column.push_back(link_cell(fit));
  if (extras.start) column.push_back(verdict_cell(fit.run_misfits));
  return column;
}

size_t width_of(const std::vector<Cell>& column) {
  size_t widest = 0;
  for (const auto& each : column) widest = std::max(widest, width(each.text));
  return widest + 2;
}

void print_block(const std::vector<Stub>& stubs, std::span<const std::vector<Cell>> columns) {
  std::vector<std::vector<Cell>> table;
  for (size_t row = 0; row < stubs.size(); ++row) {
    table.push_back({stubs[row].first, stubs[row].second});
    for (const auto& column : columns) table.back().push_back(column[row]);
  }
  print_table(table);
}

}  // namespace

void print_fit_table(const fibula::Project& project, const std::vector<fibula::Fit>& fits) {
  const auto rows = row_names(project, fits);
  const auto stubs = stubs_of(rows, fits);
  size_t names = 0, versions = 0;
  for (const auto& [name, version] : stubs) {
    names = std::max(names, width(name.text));
    versions = std::max(versions, width(version.text));
  }
  std::vector<std::vector<Cell>> columns;
  for (const auto& fit : fits) columns.push_back(column_of(rows, fit, Extras(fits)));
  const size_t left = names + versions + 4, screen = screen_width();
  for (size_t first = 0; first < columns.size();) {
    size_t last = first + 1, used = left + width_of(columns[first]);
    while (last < columns.size() && used + width_of(columns[last]) <= screen + 2) used += width_of(columns[last++]);
    if (first != 0) print_line("");
    print_block(stubs, std::span(columns).subspan(first, last - first));
    first = last;
  }
}

}  // namespace cli
