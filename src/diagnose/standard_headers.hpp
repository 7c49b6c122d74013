/// Headers that come with compilers and C libraries.
#pragma once

#include <string_view>

namespace fibula {

enum class StandardHeader { none, of_c, of_cxx };

/// Which language's standard library has a header of this name, as it is included (C17, 7.1.2; C++23, 16.4.2.3).
StandardHeader standard_header(std::string_view name);

}  // namespace fibula
