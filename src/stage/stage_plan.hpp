/// What belongs into a folder beside a lane's programs, before anything is written.
#pragma once

#include <fibula/stage.hpp>

namespace fibula {

/// What the plan is for: the folder of the build, from which programs start on this machine, or one to hand on.
enum class StageFor { build, others };

struct StagePlan {
  std::vector<StagedFile> files;  ///< sorted by path
  std::vector<LeftToSystem> left;
  std::vector<Misfit> misfits;
};

/// Errors: absent (a program is not linked yet), refused (two files of one name).
Result<StagePlan> plan_stage(const Project& project, const Fit& fit, StageFor purpose, bool licences);

}  // namespace fibula
