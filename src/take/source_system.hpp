/// For which systems and machines a source is, by its place, its name and what it includes.
#pragma once

#include <string>
#include <vector>

namespace fibula {

struct SourceSystem {
  std::vector<std::string> systems = {};  ///< by the names of a card's `system`; empty: for all
  std::vector<std::string> archs = {};    ///< by the names of a card's `arch`; empty: for all
  bool foreign = false;                   ///< for a system that no lane is for

  bool everywhere() const { return systems.empty() && archs.empty() && !foreign; }
};

/// `file` as seen from the library's folder. `included`: headers that it includes in each build.
SourceSystem system_of_source(const std::string& file, const std::vector<std::string>& included);

}  // namespace fibula
