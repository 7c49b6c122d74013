/// What a name of a header stands for: the names behind a macro, and those in the body of an inline function.
#pragma once

#include <map>
#include <set>
#include <string>
#include <string_view>

namespace fibula {

/// By the name of a macro or of a function with a body, the identifiers that using it brings in. Of several with one
/// name all; of functions whose names macros make, under no name.
using Expansions = std::map<std::string, std::set<std::string>, std::less<>>;

/// Adds those of a C or C++ text, in whichever branch of its conditionals.
void note_expansions(std::string_view text, Expansions& expansions);

}  // namespace fibula
