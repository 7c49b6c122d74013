/// Whether functions and sections of device programs lie where the project wants them.
#pragma once

#include <fibula/build.hpp>

namespace fibula {

/// What lies elsewhere, or is not there; and what lies at different addresses in programs that are to share it.
std::vector<Misfit> judge_placements(const Project& project, const std::vector<BuiltOutput>& products);

}  // namespace fibula
