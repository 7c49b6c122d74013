#include <fibula/build.hpp>
#include <fibula/emit.hpp>
#include <fibula/lock.hpp>

#include "build/commands_note.hpp"
#include "build/failures.hpp"
#include "build/farm.hpp"
#include "build/lane_build.hpp"
#include "build/library_builds.hpp"
#include "os/file_lock.hpp"
#include "os/folder.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <thread>

namespace fibula {
namespace {

/// All lanes of one build.
class Builder {
 public:
  Builder(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf, const BuildOptions& options)
      : project_(project),
        shelf_(shelf),
        options_(options),
        began_(stamp_clock()),
        running_({.jobs = options.jobs != 0 ? options.jobs : jobs_at_a_time(project),
                  .keep_going = options.keep_going,
                  .limit = std::chrono::seconds(project.time_limit()),
                  .stop = options.stop,
                  .began = began_}),
        runner_(running_) {
    for (const auto& lane : lanes)
      lanes_.push_back(std::make_unique<LaneBuild>(project, lane, [this](const BuildStep& step) {
        if (options_.progress) options_.progress(step, {runner_.ended(), runner_.added()});
      }));
    problems_.resize(lanes.size());
  }

  Result<std::vector<Result<BuildReport>>> build() {
    std::vector<size_t> open;
    for (size_t i = 0; i < lanes_.size(); ++i) {
      if (options_.whole || !lanes_[i]->is_settled(shelf_)) open.push_back(i);
    }
    if (!open.empty()) {
      if (auto built = build_lanes(open); !built) return pass(built);
    }
    std::vector<Result<BuildReport>> reports;
    for (size_t i = 0; i < lanes_.size(); ++i)
      reports.push_back(problems_[i] ? Result<BuildReport>(fail(*problems_[i])) : lanes_[i]->take());
    if (runner_.stopped()) {
      for (auto& report : reports) {
        if (report) report->stopped = true;
      }
    }
    return reports;
  }

 private:
  Result<void> build_lanes(const std::vector<size_t>& open) {
    std::vector<Lane> lanes;
    for (const size_t i : open) lanes.push_back(lanes_[i]->lane());
    // What an earlier build left when it was stopped is nobody's.
    for (const auto& lane : lanes) {
      const fs::path folder = project_.folder_of(lane);
      if (!stamp_of_link(folder).there()) continue;
      const auto opened = Folder::make_in(project_.root(), shown_from(project_.root(), folder));
      if (!opened) return fail(opened.error());
      if (auto removed = opened->remove_tree("making"); !removed) return removed;
    }
    auto gathered = gather_choices(project_, lanes, shelf_);
    if (!gathered) return fail(gathered.error());
    auto libraries = build_libraries(*gathered, shelf_, options_, running_);
    if (!libraries) return pass(libraries);
    // What was built is chosen like any other library; where nothing was to build, the choices stand.
    if (!libraries->empty()) {
      gathered = gather_choices(project_, lanes, shelf_);
      if (!gathered) return fail(gathered.error());
      for (const auto& [lane, report] : *libraries) refuse_not_built(*gathered, lane, report.failed);
    }
    read_choices(*gathered);
    for (const size_t i : open) lanes_[i]->add_steps(std::move((*libraries)[lanes_[i]->lane().name].steps));
    const auto attempt = [&](size_t i, Result<void> done) {
      if (!done) problems_[i] = std::move(done.error());
    };
    for (const size_t i : open) attempt(i, lanes_[i]->begin(*gathered, runner_));
    if (auto ran = runner_.run(); !ran) return ran;
    for (const size_t i : open) {
      if (!problems_[i]) attempt(i, lanes_[i]->finish());
    }
    if (auto written = write_common(open); !written) return written;
    for (const size_t i : open) {
      if (!problems_[i]) attempt(i, lanes_[i]->settle(shelf_, began_));
    }
    return {};
  }

  /// What is one for all lanes.
  Result<void> write_common(const std::vector<size_t>& open) {
    std::vector<const Fit*> all;
    std::vector<Fit> good;
    CommandDigests digests;
    for (const size_t i : open) {
      const BuildReport& report = lanes_[i]->report();
      if (problems_[i] || !report.fit) continue;
      all.push_back(&*report.fit);
      digests[report.lane] = lanes_[i]->commands_digest();
      if (report.good) good.push_back(*report.fit);
    }
    if (!is_database_fresh(project_, digests)) {
      if (auto written = emit::compilation_database(project_, all); !written) return written;
      note_database(project_, digests);
    }
    return good.empty() ? Result<void>() : without_value(keep_choices(project_, good, shelf_));
  }

  const Project& project_;
  const Shelf& shelf_;
  const BuildOptions& options_;
  int64_t began_;
  JobRunner::Options running_;
  JobRunner runner_;
  std::vector<std::unique_ptr<LaneBuild>> lanes_;
  std::vector<std::optional<Error>> problems_;  ///< by lane
};

/// Builds of one project, one after the other. Looked for again and again, so that who waits can be stopped.
Result<FileLock> lock_of(const Project& project, const BuildOptions& options) {
  const auto work = Folder::make_in(project.root(), ".fibula");
  if (!work) return fail(work.error());
  const fs::path file = work->path() / "lock";
  for (bool told = false;; told = true) {
    auto lock = FileLock::try_take(file);
    if (!lock) return pass(lock);
    if (*lock) return std::move(**lock);
    if (!told && options.waiting) options.waiting();
    if (options.stop && options.stop())
      return fail({.code = Code::refused,
                   .what = "was stopped while it waited for another build",
                   .file = project.root().string()});
    std::this_thread::sleep_for(std::chrono::milliseconds(20));
  }
}

}  // namespace

Result<std::vector<Result<BuildReport>>> build_all(const Project& project, const std::vector<Lane>& lanes,
                                                   const Shelf& shelf, const BuildOptions& options) {
  const auto lock = lock_of(project, options);
  if (!lock) return fail(lock.error());
  if (auto forgotten = forget_failures(project); !forgotten) return pass(forgotten);
  auto reports = Builder(project, lanes, shelf, options).build();
  if (!reports) return reports;
  if (auto kept = keep_failures(project, *reports); !kept) return pass(kept);
  return reports;
}

Result<BuildReport> build(const Project& project, const Lane& lane, const Shelf& shelf, const BuildOptions& options) {
  auto reports = build_all(project, {lane}, shelf, options);
  if (!reports) return pass(reports);
  return std::move(reports->front());
}

}  // namespace fibula
