/// Building: from a fit to processes. Nothing is compiled or linked again without a cause.
#pragma once

#include <fibula/fit.hpp>
#include <fibula/gather.hpp>

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace fibula {

/// One command that was run, or that was not needed.
struct BuildStep {
  enum class Kind { compile, archive, link };
  Kind kind;
  std::string subject;  ///< the source or the output
  std::vector<std::string> command;
  bool good = true;
  std::string log = {};    ///< what it printed
  std::string cause = {};  ///< why it was run: "tide.h changed"
};

struct BuildOptions {
  unsigned jobs = 0;  ///< processes at a time; 0: as many as the machine has cores
  /// Called after each command, from the calling thread.
  std::function<void(const BuildStep&, size_t done, size_t total)> progress = {};
};

struct BuildReport {
  bool good = false;
  Fit fit;                       ///< as it is with the program's own objects
  std::vector<BuildStep> steps;  ///< that were run
  std::vector<std::filesystem::path> products;
};

/// Compiles, archives and links every output of a lane. Link inputs are derived from the compiled objects before each
/// link. Run-time files are put beside the programs by `place_runtime_files`. Errors: those of `gather` and `plan`,
/// missing_tool, io. A command that fails is no error: see `BuildReport::good`.
FIBULA_API Result<BuildReport> build(const Project& project, const Lane& lane, const Shelf& shelf,
                                     const BuildOptions& options = {});
/// The same for a lane of those that were gathered for.
FIBULA_API Result<BuildReport> build(const Gathered& gathered, const Lane& lane, const BuildOptions& options = {});

/// What earlier builds of the lane made of the project's own code and is still right: objects whose command, source and
/// headers are as they were, and products made from them. For `PlanOptions::own`. Errors: those of `plan`.
FIBULA_API Result<OwnCode> own_code(const Gathered& gathered, const Lane& lane);

}  // namespace fibula
