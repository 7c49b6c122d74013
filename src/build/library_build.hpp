/// One library that comes as source, built for one lane.
#pragma once

#include <fibula/build.hpp>

#include "build/jobs_of.hpp"
#include "build/library_fit.hpp"
#include "jobs/runner.hpp"

namespace fibula {

class LibraryBuild {
 public:
  enum class Phase { waiting, building, kept, failed };
  using Stepped = std::function<void(const BuildStep&)>;

  LibraryBuild(const Project& project, const Shelf& shelf, const GatheredLane& lane, const Choice& choice,
               Stepped stepped);

  const std::string& name() const { return choice_.use.name; }
  const std::string& lane() const { return lane_.lane.name; }
  const SourcePlan& plan() const { return *choice_.source; }
  Phase phase() const { return phase_; }
  bool has_ended() const { return phase_ == Phase::kept || phase_ == Phase::failed; }
  /// Why it is not there; set when it failed.
  const std::optional<Misfit>& failure() const { return failure_; }
  bool lies_open() const { return choice_.card->is_open(); }

  /// Gives the runner its jobs; `advanced` is called whenever the phase may have changed. `required` are there. Errors:
  /// io.
  Result<void> begin(JobRunner& runner, const std::vector<const Choice*>& required, const BuildOptions& options,
                     std::function<void()> advanced);
  /// Another build of the same key has ended well: its outcome serves here.
  void take_over() { phase_ = Phase::kept; }
  void fail_because(const std::string& what, const std::string& remedy);

 private:
  void begin_compiling();
  bool may_run(const BuildOptions& options) const;
  Result<void> begin_steps(const std::vector<const Choice*>& required, const BuildOptions& options);
  Result<void> write_headers() const;
  void add(Job job, std::function<void(bool)> ended);
  void combine();
  std::string steps_remedy() const;
  void give_back();
  void keep();
  Result<void> keep_outcome();
  Error nothing_made(const std::filesystem::path& files) const;
  std::filesystem::path object_of(const std::filesystem::path& source) const;
  std::filesystem::path store() const;

  const Project& project_;
  const Shelf& shelf_;
  const GatheredLane& lane_;
  const Choice& choice_;
  Stepped stepped_;
  std::filesystem::path work_;  ///< its own folder below the lane's
  std::optional<BuildRecord> record_;
  std::optional<LibraryFit> fit_;
  std::optional<LaneJobs> jobs_;
  JobRunner* runner_ = nullptr;
  std::function<void()> advanced_;
  Phase phase_ = Phase::waiting;
  std::optional<Misfit> failure_;
  std::vector<std::filesystem::path> objects_;
  size_t compiles_ = 0;
};

}  // namespace fibula
