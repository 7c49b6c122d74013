/// What two pictures of one structure have and have not in common, and how to say it. Pure.
#pragma once

#include "binary/debug_types.hpp"

#include <string>
#include <vector>

namespace fibula {

/// The names of structures, classes and unions in the form of a type (`TypeText::form`).
std::vector<std::string> structures_in(const std::string& form);

/// Whether code for the one goes wrong with the other: another size, or a member of both elsewhere or of another size.
/// False where nothing is known of one.
bool lie_differently(const Layout& one, const Layout& other);

/// "it has 24 bytes in main.c, and 32 bytes in lib/libtide.a"; for one size the first member that lies elsewhere.
std::string told_apart(const Layout& one, const std::string& here, const Layout& other, const std::string& there);

/// Names to look for in headers: members that only one side has or that differ, then the structure itself.
std::vector<std::string> words_to_look_for(const std::string& name, const Layout& one, const Layout& other);

/// The bounds of its arrays, each once: "16".
std::vector<std::string> bounds_in(const Layout& layout);

}  // namespace fibula
