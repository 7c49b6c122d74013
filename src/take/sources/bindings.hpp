/// Sources that bind a library to a host which is not here: `matlab/train.c` includes `mex.h`.
#pragma once

#include "take/sources/code_tree.hpp"

#include <map>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// By the header that is not here: folders of which every source needs it and none defines what users call, while
/// others do. `declared`: what users call; `needed`: headers from elsewhere that the public ones need.
std::map<std::string, std::vector<std::string>> bindings_among(const CodeTree& tree, const std::set<std::string>& kept,
                                                               const std::set<std::string>& declared,
                                                               const std::map<std::string, std::string>& needed);

/// Of these sources those in folders that are called after other languages, and that no other source calls: where the
/// library has a folder of its own.
std::vector<std::string> for_other_languages(const CodeTree& tree, const std::set<std::string>& kept,
                                             const std::set<std::string>& declared);

}  // namespace fibula
