/// Brings a folder to what a plan says, and touches nothing in it that is somebody else's.
#pragma once

#include "os/files.hpp"
#include "os/stamp.hpp"
#include "stage/stage_plan.hpp"

namespace fibula {

enum class PlaceBy {
  link,  ///< hard links where possible: a folder of this machine's, which costs no room
  copy,  ///< a folder to hand on, in which files may be signed or stripped: it shares no bytes with the shelf
};

/// `list` is where the files of the last time are listed, and will be listed. Errors: refused, absent, io.
Result<StageReport> place_files(const StagePlan& plan, const fs::path& folder, const fs::path& list, PlaceBy by);

}  // namespace fibula
