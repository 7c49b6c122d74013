/// How the libraries of a download stand to each other.
#pragma once

#include "take/units.hpp"

namespace fibula {

/// The folder of its first file.
std::string folder_of(const Unit& unit);

/// Whether one of two shared libraries was linked against the other one.
bool are_linked(const Unit& one, const Unit& other);

/// The same library twice, or two that offer the same to links: no program can have both.
bool are_alternatives(const Unit& unit, const Unit& other);

}  // namespace fibula
