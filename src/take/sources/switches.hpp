/// Macros that take what needs another library out of a library's sources.
#pragma once

#include "take/sources/code_tree.hpp"

#include <map>
#include <string>

namespace fibula {

/// `NO_PNG`, `TIDE_WITHOUT_GZIP`: those with which some source no longer asks for a header that is not here, and that
/// nothing in the tree defines. By their names, with the first such header.
std::map<std::string, std::string> switches_without(const Source& source, const CodeTree& tree);

}  // namespace fibula
