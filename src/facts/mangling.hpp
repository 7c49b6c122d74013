#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// True for names in the Itanium C++ ABI's mangling (section 5.1): `_Z…`.
bool is_itanium_mangled(std::string_view symbol);

/// The identifiers inside a mangled name, in its order: `_ZN4tide6heightEi` gives tide, height. A plain name gives
/// itself.
std::vector<std::string_view> identifiers_in(std::string_view symbol);

/// A readable name without its parameters and what stands behind them: up to the bracket that is no part of the name,
/// as those of `operator()` and `(anonymous namespace)` are.
std::string without_parameters(const std::string& name);

}  // namespace fibula
