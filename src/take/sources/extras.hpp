/// Sources that need what is not here, beside many that do not: a back end for a library that somebody may have.
#pragma once

#include "take/sources/code_tree.hpp"

#include <map>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// By the header that is not here: the few sources that are left out, so that the rest serves. Where many need it, or
/// what nearly every user calls, it is a library that must be there. `declared`: what users call. Public headers that
/// need it too leave the source's.
std::map<std::string, std::vector<std::string>> extras_among(Source& source, const CodeTree& tree,
                                                             std::set<std::string> kept,
                                                             const std::set<std::string>& declared);

}  // namespace fibula
