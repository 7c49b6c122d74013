/// Macros that a tree's own makefiles hand to the compiler.
#pragma once

#include "making/makefile_definitions.hpp"
#include "take/sources/code_tree.hpp"

namespace fibula {

/// What the makefiles at the top and beside sources hand over on every machine, in their order, once each. None of what
/// says which system or configuration is built for.
std::vector<HandedDefinition> handed_by_makefiles(const Source& source);

/// `NAME=VALUE`: of these, the macros that sources or the tree's headers ask for and nothing in the tree defines, where
/// with them the sources find all that they include. `sources`: what is compiled.
std::vector<std::string> definitions_by_makefiles(const std::vector<HandedDefinition>& handed, const Source& source,
                                                  const CodeTree& tree, const std::set<std::string>& sources);

}  // namespace fibula
