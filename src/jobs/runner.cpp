#include "jobs/runner.hpp"

#include "jobs/input_states.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/process.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <deque>
#include <thread>
#include <unordered_map>

namespace fibula {
namespace {

/// A job that waits or runs.
struct Task {
  Job job;
  BuildRecord* record;
  JobRunner::Done done;
  std::string cause;
  InputStates before = {};
  std::string folder = {};  ///< where it makes its product
  std::string made = {};    ///< the product there
};

/// What became of a command that was not told by itself.
std::string epilogue(const Task& task, const Outcome& outcome, std::chrono::milliseconds limit) {
  const std::string program = fs::path(task.job.command.front()).filename().string();
  if (outcome.timed_out)
    return fmt::format("{} was stopped: it ran longer than {} seconds (time-limit)\n", program, limit.count() / 1000);
  if (outcome.signal != 0)
    return fmt::format("{} was ended by signal {} ({})\n", program, outcome.signal, signal_name(outcome.signal));
  if (outcome.status != 0 && outcome.out.empty() && outcome.err.empty())
    return fmt::format("{} ended with status {} and said nothing\n", program, outcome.status);
  return {};
}

/// The folder below which all of a lane is made: `.fibula/<lane>` of the project.
Result<Folder> lane_folder_of(const Task& task) {
  const fs::path lane = task.job.workshop.parent_path(), root = lane.parent_path().parent_path();
  return Folder::make_in(root, shown_from(root, lane));
}

/// Moves what was made to its place: the product last, since it is what others look for.
Result<void> put_in_place(const Task& task) {
  const auto lane = lane_folder_of(task);
  if (!lane) return fail(lane.error());
  const auto move = [&](const fs::path& from, const fs::path& to) {
    return lane->rename(inside_of(*lane, from), inside_of(*lane, to));
  };
  for (const auto& name : files_directly_in(task.folder)) {
    const fs::path file = fs::path(task.folder) / name;
    if (file == task.made) continue;
    if (auto moved = move(file, fs::path(task.job.product).parent_path() / name); !moved) return moved;
  }
  return move(task.made, task.job.product);
}

}  // namespace

struct JobRunner::State {
  explicit State(Options given) : options(std::move(given)) {
    if (options.jobs == 0) options.jobs = std::max(1U, std::thread::hardware_concurrency());
  }

  Options options;
  std::deque<std::unique_ptr<Task>> waiting;
  std::deque<std::function<void()>> when_busy, meanwhile;
  ProcessPool pool;
  std::vector<std::pair<std::unique_ptr<Task>, Outcome>> over;  ///< ended, not looked at yet
  struct Failure {
    uint64_t command = 0;
    Outcome outcome;
  };
  std::unordered_map<std::string, Failure> failures;  ///< by product
  std::optional<Error> error;
  size_t added = 0, ended = 0, number = 0;
  bool failed = false;
  std::optional<std::chrono::steady_clock::time_point> stopped;

  bool may_start() const { return !error && !stopped && (!failed || options.keep_going) && !waiting.empty(); }

  /// Folders for products, and nothing left in them of an earlier try.
  Result<void> make_room(Task& task) {
    const fs::path product = task.job.product;
    const auto lane = lane_folder_of(task);
    if (!lane) return fail(lane.error());
    if (auto made = lane->make_folder(inside_of(*lane, product.parent_path())); !made) return made;
    if (task.job.in_place) {
      task.made = task.job.product;
      std::error_code ignored;
      // ar adds to what is there, and any command would write through a link.
      if (task.job.kind == Job::Kind::archive || fs::is_symlink(product, ignored))
        return without_value(lane->remove(inside_of(*lane, product)));
      return {};
    }
    task.folder = (task.job.workshop / fmt::format("{}-{}", process_number(), ++number)).string();
    task.made = task.folder + "/" + product.filename().string();
    return lane->make_folder(inside_of(*lane, task.folder));
  }

  Result<void> start(std::unique_ptr<Task> owned) {
    Task& task = *owned;
    if (auto room = make_room(task); !room) return room;
    if (auto struck = task.record->strike(task.job.product); !struck) return struck;
    std::vector<std::string> known = task.job.inputs;
    if (task.job.tells_inputs) {
      for (auto& input : task.record->inputs_of(task.job.product)) known.push_back(std::move(input));
    }
    task.before.take(known, options.began, *task.record);
    // English wording, so that what goes wrong can be explained; UTF-8, so that file names stay whole.
    Command command{.argv = command_making(task.job, task.made),
                    .directory = task.job.directory,
                    .limit = options.limit,
                    .environment = {{"LC_ALL", "C.UTF-8"}}};
    auto shared = std::make_shared<std::unique_ptr<Task>>(std::move(owned));
    auto started = pool.start(
        command, [this, shared](Outcome outcome) { over.emplace_back(std::move(*shared), std::move(outcome)); });
    if (started) return {};
    Outcome outcome{.status = 127};
    outcome.err = fmt::format("{}: {}\n", started.error().file, started.error().what);
    over.emplace_back(std::move(*shared), std::move(outcome));
    return {};
  }

  /// The record learns of the product once it is in its place.
  Result<void> keep(Task& task) {
    std::vector<std::string> inputs = task.job.inputs;
    if (task.job.tells_inputs) {
      // The assembler tells its own.
      for (const char* ending : {".d", ".asm.d"}) {
        const std::string list = task.made + ending;
        for (auto& input : inputs_told_by(read_text(list).value_or(""), task.job.directory))
          inputs.push_back(std::move(input));
        if (const auto made = Folder::open(fs::path(list).parent_path()))
          (void)made->remove(fs::path(list).filename().string());
      }
    }
    if (!task.job.in_place) {
      if (auto placed = put_in_place(task); !placed) return placed;
    }
    if (!task.job.lister.empty()) {
      const auto listed = fibula::run({.argv = task.job.lister, .directory = task.job.directory});
      for (auto& input : inputs_told_by(listed ? listed->out : std::string(), task.job.directory))
        inputs.push_back(std::move(input));
    }
    std::vector<FileState> folders;
    if (task.job.searched) folders = task.before.folders_after(inputs, *task.job.searched);
    auto states = task.before.states_after(std::move(inputs), *task.record);
    states.insert(states.end(), folders.begin(), folders.end());
    return task.record->made(task.job.product, command_digest(task.job), states);
  }

  static void do_one(std::deque<std::function<void()>>& works) {
    if (works.empty()) return;
    const auto work = std::move(works.front());
    works.pop_front();
    work();
  }

  /// Asks the commands to end, so that they remove what they made for a moment; after two seconds ends them.
  void stop() {
    const auto now = std::chrono::steady_clock::now();
    if (!stopped) {
      stopped = now;
      pool.end_all(ProcessPool::End::ask);
    } else if (now - *stopped > std::chrono::seconds(2)) {
      pool.end_all(ProcessPool::End::at_once);
    }
  }

  void finish(Task& task, Outcome outcome) {
    ++ended;
    JobOutcome result{.good = outcome.good(), .cause = std::move(task.cause), .log = outcome.out + outcome.err};
    result.log += epilogue(task, outcome, options.limit);
    if (result.good && !stamp_at(task.made.c_str()).is_file()) {
      result.good = false;
      result.log +=
          fmt::format("{} ended well and made no {}\n", fs::path(task.job.command.front()).filename().string(),
                      fs::path(task.job.product).filename().string());
    }
    if (result.good) {
      if (auto kept = keep(task); !kept) {
        error = std::move(kept.error());
        result.good = false;
      }
    }
    if (const auto lane = lane_folder_of(task); lane && !task.folder.empty())
      (void)lane->remove_tree(inside_of(*lane, task.folder));
    if (!outcome.good()) failures[task.job.product] = {command_digest(task.job), std::move(outcome)};
    failed = failed || (!result.good && !task.job.contained);
    task.done(task.job, std::move(result));
  }
};

JobRunner::JobRunner(Options options) : state_(std::make_unique<State>(std::move(options))) {}

JobRunner::~JobRunner() = default;

bool JobRunner::add(Job job, BuildRecord& record, Done done) {
  const uint64_t command = command_digest(job);
  std::string cause = record.cause(job.product, command);
  if (cause.empty()) return false;
  ++state_->added;
  const bool first = job.kind != Job::Kind::compile;  // others wait for what it makes
  auto task = std::make_unique<Task>(Task{std::move(job), &record, std::move(done), std::move(cause)});
  if (const auto known = state_->failures.find(task->job.product);
      known != state_->failures.end() && known->second.command == command) {
    state_->over.emplace_back(std::move(task), known->second.outcome);
  } else if (first) {
    state_->waiting.push_front(std::move(task));
  } else {
    state_->waiting.push_back(std::move(task));
  }
  return true;
}

void JobRunner::give_up(const BuildRecord& record) {
  if (state_->options.keep_going) return;
  const size_t left = std::erase_if(state_->waiting, [&](const auto& task) { return task->record == &record; });
  state_->added -= left;
}

void JobRunner::while_busy(std::function<void()> work) {
  state_->when_busy.push_back(std::move(work));
}

void JobRunner::while_waiting(std::function<void()> work) {
  state_->meanwhile.push_back(std::move(work));
}

Result<void> JobRunner::run() {
  State& s = *state_;
  while (s.may_start() || s.pool.running() > 0 || !s.over.empty()) {
    if (s.options.stop && s.options.stop()) s.stop();
    while (s.may_start() && s.pool.running() < s.options.jobs) {
      auto task = std::move(s.waiting.front());
      s.waiting.pop_front();
      if (auto started = s.start(std::move(task)); !started) s.error = std::move(started.error());
    }
    if (s.over.empty()) s.do_one(s.when_busy);
    if (s.over.empty() && s.waiting.empty()) s.do_one(s.meanwhile);
    if (s.over.empty()) s.pool.wait(std::chrono::milliseconds(s.options.stop ? 50 : 0));
    for (auto& [task, outcome] : std::exchange(s.over, {})) s.finish(*task, std::move(outcome));
  }
  if (s.error) return fail(std::move(*s.error));
  return {};
}

bool JobRunner::failed() const {
  return state_->failed;
}

bool JobRunner::stopped() const {
  return state_->stopped.has_value();
}

size_t JobRunner::added() const {
  return state_->added;
}

unsigned JobRunner::side_by_side() const {
  return state_->options.jobs;
}

size_t JobRunner::ended() const {
  return state_->ended;
}

}  // namespace fibula
