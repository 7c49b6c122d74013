/// Which sources a library's public headers need.
#pragma once

#include "take/sources/code_tree.hpp"

namespace fibula {

/// Of these files those that define what is wanted, and on to what defines the names that these mention. `wanted`:
/// functions, with the headers that declare each.
std::set<std::string> reached_sources(const CodeTree& tree, const std::set<std::string>& kept,
                                      const std::map<std::string, std::vector<std::string>>& wanted);

}  // namespace fibula
