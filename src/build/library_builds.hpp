/// Builds the libraries that come as source and are not built yet, for all lanes in one schedule, before the project's
/// own code. What is made is kept: on the shelf for everybody, or in the project for what lies open to changes.
#pragma once

#include <fibula/build.hpp>

#include "jobs/runner.hpp"

#include <map>

namespace fibula {

/// Of one lane.
struct LibraryReport {
  std::vector<BuildStep> steps;
  std::map<std::string, Misfit> failed;  ///< by library: why it is not there
};

/// By lane; empty where no library was to build. Errors: io.
Result<std::map<std::string, LibraryReport>> build_libraries(const Gathered& gathered, const Shelf& shelf,
                                                             const BuildOptions& options,
                                                             const JobRunner::Options& running);

}  // namespace fibula
