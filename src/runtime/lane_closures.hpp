/// The closures of what a lane makes, seen from where it is built.
#pragma once

#include <fibula/fit.hpp>

#include "runtime/closure.hpp"

namespace fibula {

/// The closure of one output, its product where it is, with what will lie beside it.
struct OutputClosure {
  fs::path product;
  std::vector<ClosureEntry> entries;
};

/// The closures of programs and shared libraries of a lane; before the link, as the link inputs say.
class LaneClosures {
 public:
  LaneClosures(const Project& project, const Fit& fit);

  /// Errors: those of a product that cannot be read.
  Result<std::vector<OutputClosure>> follow();
  /// Files that lie elsewhere yet, by the name that they have beside the program: the fit's, and the compiler's own.
  const std::map<std::string, fs::path>& placed() const { return placed_; }
  RunTimeFiles& files() { return files_; }

 private:
  Result<std::shared_ptr<const RunTimeFile>> root_of(const Output& output) const;
  bool add_compilers_run_times(const std::vector<ClosureEntry>& entries);

  const Project& project_;
  const Fit& fit_;
  RunTimeFiles files_;
  TargetSystem system_;
  std::map<std::string, fs::path> placed_;
};

}  // namespace fibula
