/// Shared libraries that are there for a program of a download and for nobody else.
#pragma once

#include "take/units.hpp"

#include <map>

namespace fibula {

/// Each with the program that opens it: what imports from a program or leaves names to it, and what only a file under a
/// name that no linker takes opens. No link takes them.
std::map<const Unit*, std::string> program_plugins(const Source& source, const Units& units);

/// Says so, a sentence for each program, and counts them no longer as the download's libraries.
void leave_out_program_plugins(const std::map<const Unit*, std::string>& plugins, Source& source);

}  // namespace fibula
