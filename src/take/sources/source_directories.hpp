/// Where the sources of a library look for headers beside the places of its users.
#pragma once

#include "take/sources/code_tree.hpp"

namespace fibula {

/// Directories below the root, for these sources: of the tree's own headers, and of what others made and the tree
/// brings along (`3rdparty/`), where a source includes it by a name below.
std::vector<std::string> source_directories(const Source& source, const CodeTree& tree,
                                            const std::set<std::string>& sources);

}  // namespace fibula
