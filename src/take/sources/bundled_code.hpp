/// Code of other libraries that came along and that a library's own sources call: `vendor/knot/knot.c`.
#pragma once

#include "take/sources/code_tree.hpp"

#include <set>
#include <string>
#include <vector>

namespace fibula {

/// Sources of libraries of which the kept ones include a header: those that define what the kept ones call and do not
/// define, and what these need of each other. They join the tree.
std::vector<std::string> bundled_code(const Source& source, CodeTree& tree, const std::set<std::string>& kept);

}  // namespace fibula
