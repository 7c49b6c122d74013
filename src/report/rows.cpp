#include "report/rows.hpp"

#include <fibula/emit.hpp>

#include <fmt/format.h>
#include <algorithm>
#include <map>

namespace fibula {

std::vector<ReportRow> rows_of(const Report& report) {
  std::vector<ReportRow> rows;
  std::map<std::string, size_t> by_name;
  for (size_t lane = 0; lane < report.fits.size(); ++lane) {
    for (const auto& library : report.fits[lane].libraries) {
      const auto [at, fresh] = by_name.try_emplace(library.name, rows.size());
      if (fresh) rows.push_back({library.name, std::vector<ReportCell>(report.fits.size())});
      ReportCell& cell = rows[at->second].cells[lane];
      cell.library = &library;
      if (library.verdict == Verdict::misfit && !library.misfits.empty()) {
        cell.text = library.misfits.front().rule;
      } else {
        cell.text = library.variant.empty() ? library.version + (library.to_build.empty() ? "" : " (to build)")
                                            : fmt::format("{} {}", library.version, library.variant);
      }
    }
  }
  return rows;
}

std::vector<ReportMisfit> misfits_of(const Report& report) {
  std::vector<ReportMisfit> all;
  std::map<std::string, size_t> seen;
  for (const auto& fit : report.fits) {
    for (const auto& misfit : fit.misfits()) {
      Misfit said = emit::said_of_each(misfit, fit.lane.name);
      const auto [at, fresh] = seen.try_emplace(said.sentence(), all.size());
      if (fresh) {
        all.push_back({misfit, {}});
      } else {
        all[at->second].misfit = std::move(said);
      }
      all[at->second].lanes.push_back(fit.lane.name);
    }
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const auto& a, const auto& b) { return a.misfit.verdict > b.misfit.verdict; });
  return all;
}

}  // namespace fibula
