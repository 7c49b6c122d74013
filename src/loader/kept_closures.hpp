/// Closures that were followed before, and hold as long as every path that was looked at is as it was.
///
/// Kept are only those of ELF files in which nothing is wrong, on systems whose loader has a cache: then all that the
/// answer rests on is that cache, and which files are at which paths. A system's libraries are many, and change rarely.
#pragma once

#include "loader/closure.hpp"

namespace fibula {

/// `follow_needs` of a file that is on the disk, or the answer of an earlier time.
std::vector<ClosureEntry> followed_or_kept(TargetSystem& system, const ClosureRoot& root,
                                           const ClosureOptions& options);

}  // namespace fibula
