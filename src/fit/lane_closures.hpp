/// The closures of what a lane makes, seen from where it is built.
#pragma once

#include <fibula/fit.hpp>

#include "loader/closure.hpp"

namespace fibula {

/// The closures of programs and shared libraries of a lane; before the link, as the link inputs say.
class LaneClosures {
 public:
  LaneClosures(const Project& project, const Fit& fit);

  /// Errors: those of a product that cannot be read.
  Result<std::vector<FileClosure>> follow();
  RunTimeFiles& files() { return files_; }

 private:
  Result<std::shared_ptr<const RunTimeFile>> root_of(const Output& output) const;
  bool add_compilers_run_times(const std::vector<ClosureEntry>& entries);

  const Project& project_;
  const Fit& fit_;
  RunTimeFiles files_;
  ClosureOptions options_;
  TargetSystem system_;
  std::map<std::string, fs::path> placed_;
};

}  // namespace fibula
