/// The closure of a file that is described, whether it is on the disk already or not.
#pragma once

#include "loader/search.hpp"

namespace fibula {

struct ClosureRoot {
  std::shared_ptr<const RunTimeFile> file;
  /// Files that will lie beside it and are elsewhere yet, by the name they will have.
  std::map<std::string, fs::path> placed = {};
  std::vector<fs::path> plugins = {};
  std::set<fs::path> hidden = {};  ///< files that count as absent
};

std::vector<ClosureEntry> follow_needs(RunTimeFiles& files, TargetSystem& system, const ClosureRoot& root);

}  // namespace fibula
