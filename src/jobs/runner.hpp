/// Runs jobs side by side over the cores: those that are out of date, each from inputs whose state was taken before,
/// and each into a place of its own from which its product is renamed when it is whole.
#pragma once

#include "jobs/job.hpp"
#include "jobs/record.hpp"

#include <chrono>
#include <functional>

namespace fibula {

/// How a job ended that had to run.
struct JobOutcome {
  bool good = false;
  std::string cause;  ///< why it ran
  std::string log;    ///< what it printed, and what became of it
};

class JobRunner {
 public:
  struct Options {
    unsigned jobs = 0;                  ///< side by side; 0: as many as there are cores
    bool keep_going = false;            ///< after a failure, with what does not depend on it
    std::chrono::milliseconds limit{};  ///< for each command; zero: none
    std::function<bool()> stop = {};    ///< asked often; true ends the commands that run
    int64_t began = 0;                  ///< when what this build knows of inputs was taken; see `stamp_clock`
  };
  using Done = std::function<void(const Job&, JobOutcome)>;

  explicit JobRunner(Options options);
  ~JobRunner();
  JobRunner(const JobRunner&) = delete;
  JobRunner& operator=(const JobRunner&) = delete;

  /// False for a job that need not run; else `done` is called from `run` when it has ended. May be called from there.
  /// The record outlives the runner. A command that failed before in this runner ends as it did, without another run.
  bool add(Job job, BuildRecord& record, Done done);
  /// Begins none of the jobs any more that wait with this record, unless all is to go on after a failure.
  void give_up(const BuildRecord& record);
  /// Does this once while commands run and no further one may be started now.
  void while_busy(std::function<void()> work);
  /// Does this once while commands run and none is left to start: what a job that follows will need.
  void while_waiting(std::function<void()> work);
  /// Runs all jobs; returns when none is left, or none may be started any more. Errors: io (a record or a folder cannot
  /// be written).
  Result<void> run();

  bool failed() const;
  bool stopped() const;
  unsigned side_by_side() const;  ///< jobs that run at a time
  size_t added() const;           ///< jobs so far that had to run
  size_t ended() const;           ///< of these

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace fibula
