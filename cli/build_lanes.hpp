/// Building lanes with progress for people: what `build` and `stage` share.
#pragma once

#include "session.hpp"

#include <map>

namespace cli {

struct BuiltLanes {
  std::vector<fibula::Result<fibula::BuildReport>> reports;           ///< one a lane
  std::map<std::string, std::vector<fibula::Finding>> findings = {};  ///< by lane: why commands failed
  bool stopped = false;                                               ///< somebody interrupted it
};

/// Builds them. Prints progress, and what commands say: each text once, as soon as it is there, and in the end which
/// lanes said the same. Nothing is printed when JSON is asked for.
fibula::Result<BuiltLanes> build_lanes(const Session& session, const ProjectAtHand& here, fibula::BuildOptions options);

}  // namespace cli
