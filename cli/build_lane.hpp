/// Building a lane with progress for people: what `build` and `stage` share.
#pragma once

#include "session.hpp"

namespace cli {

struct BuiltLane {
  fibula::BuildReport report;
  std::vector<fibula::Finding> findings;  ///< why it failed
};

/// Compiles, links, writes the lane's outputs and puts run-time files beside the programs. Prints progress, and what
/// commands say, unless JSON is asked for.
fibula::Result<BuiltLane> build_lane(const Session& session, const fibula::Project& project, const fibula::Lane& lane,
                                     const fibula::Shelf& shelf, unsigned jobs);

std::string_view verb(fibula::BuildStep::Kind kind);

}  // namespace cli
