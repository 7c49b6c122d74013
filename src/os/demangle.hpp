#pragma once

#include <optional>
#include <string>

namespace fibula {

/// A C++ name as people write it, from its mangled form (Itanium C++ ABI, section 5.1); nothing when it is none.
std::optional<std::string> demangle(const std::string& symbol);

}  // namespace fibula
