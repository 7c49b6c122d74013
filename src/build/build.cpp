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
        runner_({.jobs = options.jobs != 0 ? options.jobs : jobs_at_a_time(project),
                 .keep_going = options.keep_going,
                 .limit = std::chrono::seconds(project.time_limit()),
                 .stop = options.stop,
                 .began = began_}) {
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
    if (auto done = build_short(open); !done) return pass(done);
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
  /// What takes no plan; leaves those lanes that take one.
  Result<void> build_short(std::vector<size_t>& open) {
    std::vector<size_t> begun;
    std::copy_if(open.begin(), open.end(), std::back_inserter(begun),
                 [this](size_t i) { return lanes_[i]->begin_short(runner_); });
    if (auto ran = runner_.run(); !ran) return ran;
    for (const size_t i : begun) {
      if (lanes_[i]->end_short()) std::erase(open, i);
    }
    return {};
  }

  Result<void> build_lanes(const std::vector<size_t>& open) {
    if (auto removed = remove_leftovers(open); !removed) return removed;
    std::vector<Lane> lanes;
    for (const size_t i : open) lanes.push_back(lanes_[i]->lane());
    auto gathered = gather_choices(project_, lanes, shelf_);
    if (!gathered) return fail(gathered.error());
    LibraryBuilds libraries(
        *gathered, shelf_, options_, runner_,
        {.stepped = [this](const auto& lane, const auto& step) { lanes_[index_of(lane)]->add_step(step); },
         .lane_ended = [this](const auto& lane, const auto& failed) { begin_with_built(index_of(lane), failed); }});
    const auto is_waiting = [&](size_t i) { return libraries.builds_for(lanes_[i]->lane().name); };
    std::vector<size_t> ready;
    std::copy_if(open.begin(), open.end(), std::back_inserter(ready), [&](size_t i) { return !is_waiting(i); });
    libraries.begin();
    for (const size_t i : ready) begin(i, *gathered);
    for (const size_t i : open) {
      if (is_waiting(i)) lanes_[i]->begin_ahead(*gathered, runner_);
    }
    if (is_worth_a_forecast()) runner_.while_busy([&] { forecast(*gathered, ready); });
    if (auto ran = runner_.run(); !ran) return ran;
    if (libraries.error()) return fail(*libraries.error());
    for (const size_t i : open) {
      if (!problems_[i]) attempt(i, lanes_[i]->finish());
    }
    if (auto written = write_common(open); !written) return written;
    for (const size_t i : open) {
      if (!problems_[i]) attempt(i, lanes_[i]->settle(shelf_, began_));
    }
    return {};
  }

  /// What is foreseen of libraries is of use to those who wait.
  bool is_worth_a_forecast() const {
    return options_.forecast && !project_.libraries().empty() && runner_.added() > 2 * runner_.side_by_side();
  }

  /// Errors are told when the links are planned.
  void forecast(const Gathered& gathered, const std::vector<size_t>& lanes) {
    std::vector<Fit> foreseen;
    for (const size_t i : lanes) {
      if (problems_[i]) continue;
      if (auto fit = plan(gathered, lanes_[i]->lane(), {.through = PlanThrough::linking}))
        foreseen.push_back(std::move(*fit));
    }
    options_.forecast(foreseen);
  }

  void attempt(size_t i, Result<void> done) {
    if (!done) problems_[i] = std::move(done.error());
  }

  size_t index_of(const std::string& lane) const {
    const auto is_it = [&](const auto& one) { return one->lane().name == lane; };
    return static_cast<size_t>(std::find_if(lanes_.begin(), lanes_.end(), is_it) - lanes_.begin());
  }

  /// What an earlier build left when it was stopped is nobody's.
  Result<void> remove_leftovers(const std::vector<size_t>& open) const {
    for (const size_t i : open) {
      const fs::path folder = project_.folder_of(lanes_[i]->lane());
      if (!stamp_of_link(folder).there()) continue;
      const auto opened = Folder::make_in(project_.root(), shown_from(project_.root(), folder));
      if (!opened) return fail(opened.error());
      if (auto removed = opened->remove_tree("making"); !removed) return removed;
    }
    return {};
  }

  /// What is chosen is there.
  void begin(size_t i, const Gathered& gathered) {
    read_choices(gathered, {lanes_[i]->lane()});
    attempt(i, lanes_[i]->begin(gathered, runner_));
  }

  /// What was built is chosen like any other library.
  void begin_with_built(size_t i, const std::map<std::string, Misfit>& failed) {
    const Lane lane = lanes_[i]->lane();
    const auto gathered = gather_choices(project_, {lane}, shelf_);
    if (!gathered) {
      problems_[i] = gathered.error();
      return;
    }
    refuse_not_built(*gathered, lane.name, failed);
    begin(i, *gathered);
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

std::string_view to_string(BuildStep::Kind kind) {
  switch (kind) {
    case BuildStep::Kind::compile: return "compile";
    case BuildStep::Kind::archive: return "archive";
    case BuildStep::Kind::link: return "link";
    case BuildStep::Kind::image: return "image";
    case BuildStep::Kind::steps: return "steps";
  }
  return "";
}

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
