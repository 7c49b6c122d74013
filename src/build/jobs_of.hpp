/// The commands of a build: what compiles, archives and links an output.
#pragma once

#include <fibula/fit.hpp>

#include "emit/arguments.hpp"
#include "fit/gathered.hpp"
#include "jobs/job.hpp"

namespace fibula {

/// What all jobs of one lane share.
class LaneJobs {
 public:
  LaneJobs(const Project& project, const Fit& fit);

  Job compile(const Output& output, const std::filesystem::path& source);
  Job archive(const Output& output, const std::vector<std::filesystem::path>& objects) const;
  /// The link must be in the fit. `own` are products of the project's own that it reads.
  Job link(const Output& output, const std::vector<std::filesystem::path>& objects) const;

 private:
  Job job(Job::Kind kind, std::string subject, const std::filesystem::path& product) const;

  const Project& project_;
  const Fit& fit_;
  std::filesystem::path workshop_;                            ///< where things are made before they are put in place
  std::string identity_;                                      ///< of the compiler
  std::shared_ptr<const std::vector<std::string>> searched_;  ///< include directories
  std::map<std::string, CompileCommands> commands_;           ///< by output
};

/// A tool of a compiler's family: `aarch64-linux-gnu-g++`, "ar" -> `aarch64-linux-gnu-ar`; the plain name where there
/// is none.
std::string tool_beside(const std::filesystem::path& compiler, const std::string& tool);

/// Who a program is: a newer one under the same name makes other files. A further hard link to it, as tools that back
/// up or profile make them, moves its time of change alone, and makes it nobody else.
std::string identity_of_program(const std::filesystem::path& program);

/// The objects of an output's sources, and the objects that are among its sources, in their order.
std::vector<std::filesystem::path> objects_of(const Gathered::State& gathered, const Lane& lane, const Output& output);

}  // namespace fibula
