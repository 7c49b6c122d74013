/// Dependency files: what a compiler, an assembler or a linker says it has read.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// The files behind the first colon, in make's syntax as GCC, Clang, GNU as and the linkers write it: back-slashes
/// before spaces, `#` and line ends, `$$`. Phony rules behind the first one say nothing new.
std::vector<std::string> dependencies_in(std::string_view text);

}  // namespace fibula
