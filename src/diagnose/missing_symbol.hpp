/// Why a loader found no definition of a symbol.
#pragma once

#include "commands/complaint.hpp"
#include "os/files.hpp"

#include <fibula/closure.hpp>
#include <fibula/explain.hpp>

namespace fibula {

/// A program with what it loads; without a path where it is not known.
struct LoadedProgram {
  const fs::path& file;
  const std::vector<ClosureEntry>& closure;
};

void explain_missing_symbol(Finding& finding, const Complaint& complaint, const LoadedProgram& program,
                            const ExplainContext& context);

}  // namespace fibula
