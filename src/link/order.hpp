/// The order of link inputs, derived from who needs whom.
#pragma once

#include "link/rehearsal.hpp"

namespace fibula {

/// One place in the order: a single file, or several that need each other in a circle.
using OrderedFiles = std::vector<std::vector<size_t>>;

struct DerivedOrder {
  OrderedFiles places;
  std::vector<bool> used;       ///< whether the program, or a member that it pulls, refers to what the file defines
  std::vector<bool> essential;  ///< whether it refers to something that no other of the files defines
};

/// Orders the files so that each stands before those that it needs, as a linker that reads from left to right wants it.
/// Only what the program pulls counts; files that do not need each other keep the order given. `objects` are the
/// program's own. Errors: those of a damaged member.
Result<DerivedOrder> derive_order(FileStore& files, const std::vector<std::filesystem::path>& objects,
                                  const StandIn& stand_in, const std::vector<LinkFile*>& libraries);

}  // namespace fibula
