/// What tells that two sources stand in for each other: names that others want, which both define.
#pragma once

#include "take/sources/code_tree.hpp"

namespace fibula {

/// Of one of the sources that are kept, what it defines in every build and others want; `declared`: functions of the
/// public headers.
std::set<std::string> names_to_compare(const CodeTree& tree, const std::set<std::string>& kept,
                                       const std::set<std::string>& declared, const std::string& file);

}  // namespace fibula
