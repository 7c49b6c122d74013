/// Headers that lie in a source tree as templates only, for a configure step to fill in.
#pragma once

#include "take/sources/code_tree.hpp"

namespace fibula {

/// Those that the kept sources and the headers ask for, filled in; told in the source's remarks, and known to the tree
/// from now on.
std::vector<SourceHeader> made_headers(Source& source, CodeTree& tree, const std::set<std::string>& kept);

}  // namespace fibula
