/// Headers that lie in a source tree as templates only, for a configure step to fill in.
#pragma once

#include "take/sources/code_tree.hpp"

namespace fibula {

/// Those that the kept sources and the headers ask for, filled in; told in the source's remarks, with the place where
/// they can be looked at, and known to the tree from now on. `more`: texts for headers without a template, by their
/// names, with the file that asks for them.
struct HeaderTemplate {
  std::string file, text;
};
std::vector<SourceHeader> made_headers(Source& source, CodeTree& tree, const std::set<std::string>& kept,
                                       const std::string& place,
                                       const std::map<std::string, HeaderTemplate>& more = {});

}  // namespace fibula
