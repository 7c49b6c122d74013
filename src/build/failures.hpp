/// What failed in the last build of a project, kept as a log for whoever asks later.
#pragma once

#include <fibula/build.hpp>

namespace fibula {

/// Forgets what failed before. Errors: io.
Result<void> forget_failures(const Project& project);
/// Keeps what failed now; nothing is written when nothing did. Errors: io.
Result<void> keep_failures(const Project& project, const std::vector<Result<BuildReport>>& reports);

}  // namespace fibula
