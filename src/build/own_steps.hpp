/// The build steps that a library brings: run in a copy of its tree, in a sandbox, after somebody agreed.
#pragma once

#include "choose/source_plan.hpp"
#include "jobs/job.hpp"

#include <fibula/build.hpp>

namespace fibula {

/// Where the steps of one library in one lane are at work. All absolute; below the lane's folder.
struct StepsPlace {
  std::filesystem::path tree;    ///< the copy, written by the steps
  std::filesystem::path prefix;  ///< into which they install
  std::filesystem::path done;    ///< written when the last step ended well
};

/// Copies the library's files to the place, whose folders are there. Errors: io, unreadable.
Result<void> lay_out_tree(const SourcePlan& plan, const StepsPlace& place);

/// The job that runs all steps. Errors: missing_tool (no sandbox here, and `unsandboxed` is not set).
Result<Job> steps_job(const SourcePlan& plan, const Fit& fit, const std::vector<const Choice*>& required,
                      const StepsPlace& place, bool unsandboxed);

/// What a failed run says: the step, and the last lines before its end.
std::string failed_steps(const std::string& log);
/// `--disable-doxygen`, where a configure script that gave up named it as a way out; empty: none.
std::string option_advised(std::string_view log);

}  // namespace fibula
