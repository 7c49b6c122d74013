/// The conditions of `#if`, as far as they ask what is defined.
#pragma once

#include <functional>
#include <optional>
#include <set>
#include <string>
#include <string_view>

namespace fibula {

using DefinedNames = std::set<std::string, std::less<>>;

/// Whether an `#if` expression (C 2018, 6.10.1) holds where these names are defined and only `defined` matters: a name
/// counts as its being defined, and is at least what it is compared with, since compilers are newer than what is asked.
bool condition_holds(std::string_view expression, const DefinedNames& defined);

using NameQuestion = std::function<bool(std::string_view)>;

/// What an `#if` expression is in each build, where of some names it is known that nobody defines them; nothing where
/// that depends on the build, or on what is not worked out here (arithmetic, macros with arguments).
std::optional<bool> settled_condition(std::string_view expression, const NameQuestion& is_never_defined);

}  // namespace fibula
