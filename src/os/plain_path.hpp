#pragma once

#include <string_view>

namespace fibula {

/// Whether a path has a part that leads nowhere or up (`.`, `..`, nothing between two slashes): then comparing texts
/// does not tell where it leads. A name that begins with a dot is one like any other.
bool has_detours(std::string_view path);

}  // namespace fibula
