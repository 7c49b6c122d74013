/// More binaries of a version that is on a shelf: a build for another system, or another configuration.
#pragma once

#include <fibula/card.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

struct Joined {
  Card card;
  std::vector<std::string> files;    ///< of the whole
  std::vector<std::string> remarks;  ///< where headers differ
};

/// Puts the files of both into `into`: those of the entry where they were, those of the other in a folder of their own.
/// Headers that are the same are kept once; where they differ, each build keeps its own. Where one of them has headers
/// alone, these join the other's. `files` are those of `fresh`, below `root`. Errors: refused (the entry has these
/// already, or another header of the same name for the same builds), io.
Result<Joined> join(const Card& known, const Card& fresh, const std::filesystem::path& root,
                    const std::vector<std::string>& files, const std::filesystem::path& into);

}  // namespace fibula
