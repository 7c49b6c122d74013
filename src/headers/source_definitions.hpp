/// Which source defines a function, as far as its text says: for remedies, not for links.
#pragma once

#include <filesystem>
#include <string_view>

namespace fibula {

/// Whether a text of C, C++, Objective-C or assembly defines a function (or in assembly a label) of this name that
/// other files see: `name(…) {` at the outside of everything, not static, not in a comment. Definitions that macros
/// make are not seen.
bool text_defines(std::string_view text, std::string_view name);

}  // namespace fibula
