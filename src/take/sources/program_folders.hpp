/// Where in a source tree programs lie that come with the library.
#pragma once

#include "take/source.hpp"

#include <set>

namespace fibula {

/// Folders that are called after what people start, and those of a main whose headers nobody else includes: a library
/// may well have a tool among its sources. What lies below them is the programs' own.
std::set<std::string> program_folders(const Source& source);

/// Whether a file lies in one of these folders, or below.
bool lies_in_one_of(const std::set<std::string>& folders, const std::string& file);

}  // namespace fibula
