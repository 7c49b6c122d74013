/// Sources about machines that every machine needs: a disassembler for one runs on all.
#pragma once

#include "take/sources/code_tree.hpp"
#include "take/sources/rivals.hpp"

#include <map>
#include <string>

namespace fibula {

/// Takes from sources in C and C++ the machines that they seem to be for by their names alone, where a source for all
/// machines calls in every build for Linux what they alone define. `handed`: macros that the tree's own build defines.
void settle_machines(std::map<std::string, PlacedSource>& sources, const Source& source, const CodeTree& tree,
                     const DefinedNames& handed);

}  // namespace fibula
