/// One lane of a build: its plan, its jobs, and what waits for what.
#pragma once

#include <fibula/build.hpp>

#include "build/jobs_of.hpp"
#include "build/short_build.hpp"
#include "fit/lane_plan.hpp"
#include "jobs/runner.hpp"

#include <map>
#include <memory>

namespace fibula {

/// Where a lane's record lies.
std::filesystem::path record_file(const Project& project, const Lane& lane);

class LaneBuild {
 public:
  /// `stepped` is called after each command of it.
  LaneBuild(const Project& project, const Lane& lane, std::function<void(const BuildStep&)> stepped);

  /// A command of one of its libraries has ended.
  void add_step(const BuildStep& step);
  /// Whether the last build left nothing to do, and nothing has changed since: its report is the one of this build.
  bool is_settled(const Shelf& shelf);
  /// Where little has changed since: gives the runner what is to be made again as it was. False: it takes a plan.
  bool begin_short(JobRunner& runner);
  /// After the run: whether that was all. Else `begin` follows.
  bool end_short();
  /// Gives the runner the compiles whose commands are known, although libraries are not built yet. `begin` follows when
  /// these are, and looks at the commands again.
  void begin_ahead(const Gathered& gathered, JobRunner& runner);
  /// Plans the lane and gives the runner its first jobs; further ones follow as these end. Errors: those of the plan;
  /// io.
  Result<void> begin(const Gathered& gathered, JobRunner& runner);
  /// All that could run has run: follows what the programs need, puts run-time files beside them, and writes what
  /// others read. Errors: why a link could not be planned; io.
  Result<void> finish();
  /// Remembers, where nothing is left to do, on what that rests. The last step: what it rests on is written by then.
  /// `began`: nothing that changed later is known.
  Result<void> settle(const Shelf& shelf, int64_t began);

  /// Of all compile commands, with what they make; 0 where not all were put together.
  uint64_t commands_digest() const;
  const Lane& lane() const { return lane_; }
  const BuildReport& report() const { return report_; }
  BuildReport take() { return std::move(report_); }

 private:
  enum class Phase { compiling, waiting, making, imaging, made, failed };
  struct Made {
    const Output* output;
    Phase phase = Phase::compiling;
    size_t compiles = 0;    ///< that have not ended
    uint64_t commands = 0;  ///< digest of its compile commands, with what they make
    bool again = false;     ///< these are not what was begun
  };

  bool add_job(Job job, std::function<void(bool)> ended);
  void begin_with(const Gathered& gathered, JobRunner& runner, const Fit& fit);
  std::vector<Job> compiles_of(Made& made);
  void compile_again(Made& made);
  bool refuse(Made& made);
  void read_meanwhile(std::vector<std::filesystem::path> objects);
  void compile(Made& made);
  void advance();
  bool go_on(Made& made);
  Result<bool> make(Made& made);
  void end(Made& made, bool good);
  void make_images(Made& made);
  BuiltOutput built_output(const Output& output);
  static BuildStep step_of(const Job& job, JobOutcome outcome);
  void forget_report();
  void keep_recipe();
  std::optional<std::string> kept_recipe() const;
  void place_for_those_made();

  const Project& project_;
  Lane lane_;
  std::function<void(const BuildStep&)> stepped_;
  BuildRecord record_;
  BuildReport report_;
  std::optional<BuildRecord::Standing> standing_;  ///< what is left of the last build
  std::optional<ShortBuild> short_;
  uint64_t recipe_ = 0;                ///< digest of what is kept of what ran
  std::vector<Job> others_;            ///< jobs that were no compiles
  std::optional<Gathered> gathering_;  ///< keeps what `gathered_` points at
  std::optional<Fit> ahead_;           ///< what is known before the libraries are built
  std::optional<LanePlan> plan_;
  std::optional<LaneJobs> jobs_;
  JobRunner* runner_ = nullptr;
  Gathered::State* gathered_ = nullptr;
  std::vector<Made> outputs_;
  OwnCode own_;
  std::optional<Error> error_;
  bool commands_known_ = true;
  bool advancing_ = false;
};

}  // namespace fibula
