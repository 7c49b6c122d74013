/// Where a project uses what has changed in a library.
#pragma once

#include <fibula/compare.hpp>
#include <fibula/fit.hpp>

#include <string>
#include <vector>

namespace fibula {

/// Fills in `used_by`: sources and headers of the project by the names that they mention, its objects and the other
/// libraries of its links by the symbols that they need. `library`: the one that has changed.
void find_uses(const Project& project, const std::vector<Fit>& fits, const std::string& library,
               std::vector<Difference>& differences);

}  // namespace fibula
