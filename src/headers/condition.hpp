/// The conditions of `#if`, as far as they ask what is defined.
#pragma once

#include <set>
#include <string>
#include <string_view>

namespace fibula {

using DefinedNames = std::set<std::string, std::less<>>;

/// Whether an `#if` expression (C 2018, 6.10.1) holds where these names are defined and only `defined` matters: a name
/// counts as its being defined, and is at least what it is compared with, since compilers are newer than what is asked.
bool condition_holds(std::string_view expression, const DefinedNames& defined);

}  // namespace fibula
