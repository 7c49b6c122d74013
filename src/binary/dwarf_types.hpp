/// DWARF's entries about types, functions and data (version 5, chapters 4 and 5), read into DebugTypes.
#pragma once

#include "binary/debug_types.hpp"
#include "binary/dwarf.hpp"

namespace fibula::dwarf {

/// Adds what the sections describe. Reading ends at the first unit that cannot be read.
void read_types(const Sections& sections, DebugTypes& into);

}  // namespace fibula::dwarf
