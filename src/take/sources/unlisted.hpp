/// Sources that the library's own makefiles pass over: left behind by their makers.
#pragma once

#include "take/sources/code_tree.hpp"

#include <map>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// Of the sources that are kept those that no makefile of the tree names, where it names nearly all that lie beside
/// them; but for those that define what others want and nobody else has. `declared`: functions of the public headers,
/// with the headers.
std::vector<std::string> unlisted_sources(const Source& source, const CodeTree& tree, const std::set<std::string>& kept,
                                          const std::map<std::string, std::vector<std::string>>& declared);

}  // namespace fibula
