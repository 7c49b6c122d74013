#pragma once

#include <fibula/explain.hpp>

#include "commands/complaint.hpp"

namespace fibula {

/// Why a program did not start, from what its loader said and the closure of the real files.
std::vector<Finding> load_findings(const std::vector<Complaint>& complaints, const ExplainContext& context);

}  // namespace fibula
