/// Brings a folder to what a plan says, and touches nothing in it that is somebody else's.
#pragma once

#include "os/files.hpp"
#include "os/stamp.hpp"
#include "stage/stage_plan.hpp"

namespace fibula {

/// Files are copies in both: whoever signs or strips one changes nothing on the shelf.
enum class PlaceIn {
  build,          ///< a folder that builds write, which is all ours
  build_in_part,  ///< the same, while a program could not be made: what it needed stays
  staged,         ///< a folder to hand on: what is somebody else's in it is not touched
};

/// `list` is where the files of the last time are listed, and will be listed. Errors: refused, absent, io.
Result<StageReport> place_files(const StagePlan& plan, const fs::path& folder, const fs::path& list, PlaceIn kind);

}  // namespace fibula
