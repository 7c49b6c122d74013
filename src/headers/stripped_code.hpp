/// The text of a C or C++ source or header, as far as it can declare functions.
#pragma once

#include <string>
#include <string_view>

namespace fibula {

/// Without comments, preprocessor lines, the contents of literals and what is Objective-C's own; the rest stays in
/// place.
std::string stripped_code(std::string_view text);

}  // namespace fibula
