#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// Functions that C or C++ text declares and nowhere defines, by their last name, in order and each once: what a header
/// leaves to a binary. Reads the text as it stands, so a declaration made by a macro is not seen. Templates are left
/// out.
std::vector<std::string> functions_left_to_a_binary(std::string_view text);

}  // namespace fibula
