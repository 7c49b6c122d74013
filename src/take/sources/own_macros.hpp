/// Macros by which a library's own sources know that they are being compiled.
#pragma once

#include "take/sources/code_tree.hpp"

namespace fibula {

/// `TIDE_LIB`, `BUILDING_TIDE`: macros that these sources and the tree's headers test, and that only the library's own
/// build would define. None of those that export symbols. `library`: its name.
std::vector<std::string> macros_of_own_build(const Source& source, const CodeTree& tree,
                                             const std::set<std::string>& sources, const std::string& library);

}  // namespace fibula
