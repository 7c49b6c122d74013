/// The table of libraries and lanes, as every form of the report has it.
#pragma once

#include <fibula/report.hpp>

#include <string>
#include <vector>

namespace fibula {

/// A library in a lane.
struct ReportCell {
  const ChosenLibrary* library = nullptr;  ///< null: the lane does not use it
  std::string text;                        ///< "2.1.0 x86_64-elf-static", or the first reason
};

struct ReportRow {
  std::string library;
  std::vector<ReportCell> cells;  ///< one a lane, in order
};

std::vector<ReportRow> rows_of(const Report& report);

/// A misfit, and the lanes in which it is.
struct ReportMisfit {
  Misfit misfit;
  std::vector<std::string> lanes;
};
/// Each once, worst first.
std::vector<ReportMisfit> misfits_of(const Report& report);

}  // namespace fibula
