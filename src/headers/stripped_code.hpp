/// The text of a C or C++ source or header without what says nothing.
#pragma once

#include <string>
#include <string_view>

namespace fibula {

/// As far as it can declare functions: without comments, preprocessor lines, the contents of literals and what is
/// Objective-C's own; the rest stays in place.
std::string stripped_code(std::string_view text);
/// Without comments, the contents of literals and what includes, tells or warns; bodies of macros and conditions stay.
std::string code_with_macros(std::string_view text);

}  // namespace fibula
