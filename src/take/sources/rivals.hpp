/// Sources of one system that define the same: the one that is made for it serves there, the general one elsewhere.
#pragma once

#include "take/sources/source_system.hpp"

#include <map>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// A source, with the names that others want of it.
struct PlacedSource {
  SourceSystem system;
  std::set<std::string> names;
};

/// Takes from sources the systems on which others, made for fewer of them, define all that they do; where both are for
/// the same, one that is called after nothing (`no-watch.c`, `stub.c`) or after other systems gives way, and so does
/// one that defines a part of what another has. What is left
/// without a system is removed, and returned.
std::vector<std::string> settle_rivals(std::map<std::string, PlacedSource>& sources);

}  // namespace fibula
