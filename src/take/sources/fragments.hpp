/// Texts of which something else makes a source.
#pragma once

#include "take/sources/code_tree.hpp"

#include <set>
#include <string>
#include <vector>

namespace fibula {

/// Of these sources those that a script puts together, or a checker reads: they begin or end in the middle of a
/// conditional; or they include nothing, and use what only a header of the standard defines, or use what the tree's
/// headers define and have a part of what a source with these headers defines.
std::vector<std::string> fragments_among(const CodeTree& tree, const std::set<std::string>& sources);

}  // namespace fibula
