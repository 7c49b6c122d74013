#include "build/lane_build.hpp"

#include <fibula/emit.hpp>
#include <fibula/stage.hpp>

#include "base/digest.hpp"
#include "build/image_job.hpp"
#include "build/placement_rules.hpp"
#include "build/recipe_of_lane.hpp"
#include "build/settlement.hpp"
#include "fit/compile_plan.hpp"
#include "os/folder.hpp"
#include "os/kept.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

namespace {

/// Nothing that a build makes or installs has a part in them.
bool commands_are_known(const GatheredLane& lane) {
  if (lane.problem) return false;
  return std::all_of(lane.choices.begin(), lane.choices.end(), [](const auto& named) {
    const Choice& choice = named.second;
    return choice.card != nullptr && choice.chosen.verdict != Verdict::misfit && has_its_headers(choice);
  });
}

/// A plain sum would not see two that change places; this one does, and costs nothing.
uint64_t followed_by(uint64_t digests, uint64_t digest) {
  return digests * 0x100000001b3U + digest;
}

}  // namespace

fs::path record_file(const Project& project, const Lane& lane) {
  return project.folder_of(lane) / "record";
}

LaneBuild::LaneBuild(const Project& project, const Lane& lane, std::function<void(const BuildStep&)> stepped)
    : project_(project), lane_(lane), stepped_(std::move(stepped)), record_(record_file(project, lane)) {
  report_.lane = lane.name;
}

uint64_t LaneBuild::commands_digest() const {
  uint64_t all = 0;
  for (const auto& made : outputs_) all = followed_by(all, made.commands);
  return commands_known_ && plan_ ? all : 0;
}

void LaneBuild::add_step(const BuildStep& step) {
  report_.steps.push_back(step);
  stepped_(step);
}

bool LaneBuild::is_settled(const Shelf& shelf) {
  auto standing = record_.standing();
  if (!standing) return false;
  if (!read_settlement(standing->outcome, project_, lane_, shelf, report_, recipe_)) {
    forget_report();
    return false;
  }
  standing_ = std::move(*standing);
  return standing_->stale.empty();
}

bool LaneBuild::begin_short(JobRunner& runner) {
  if (!standing_) return false;
  const auto ended = [this](const Job& job, JobOutcome outcome) { add_step(step_of(job, std::move(outcome))); };
  const auto recipe = kept_recipe();
  if (recipe) short_ = ShortBuild::open(record_, standing_->stale, *recipe, ended);
  if (short_) short_->begin(runner);
  if (!short_) forget_report();
  return short_.has_value();
}

/// What the last build said is not what this one will say; what was run stays.
void LaneBuild::forget_report() {
  auto steps = std::move(report_.steps);
  report_ = {.lane = lane_.name, .steps = std::move(steps)};
}

bool LaneBuild::end_short() {
  if (short_->is_whole()) {
    // Everything is made; where that cannot be remembered, it costs the next build time and nothing else.
    static_cast<void>(record_.stand_again(standing_->outcome, project_.folder_of(lane_).string() + "/"));
    return true;
  }
  forget_report();
  return false;
}

void LaneBuild::begin_ahead(const Gathered& gathered, JobRunner& runner) {
  const GatheredLane* lane = gathered.state().lane_named(lane_.name);
  if (lane == nullptr || !commands_are_known(*lane)) return;
  ahead_ = compile_plan(project_, *lane);
  if (!ahead_->shared_headers.empty()) return;
  begin_with(gathered, runner, *ahead_);
  for (auto& made : outputs_) compile(made);
}

Result<void> LaneBuild::begin(const Gathered& gathered, JobRunner& runner) {
  auto plan = LanePlan::open(gathered, lane_);
  if (!plan) return pass(plan);
  plan_.emplace(std::move(*plan));
  report_.target = plan_->fit().toolchain.target;
  if (auto written = emit::shared_headers(plan_->fit()); !written) return written;
  const bool begun = !outputs_.empty();
  begin_with(gathered, runner, plan_->fit());
  for (auto& made : outputs_) begun ? compile_again(made) : compile(made);
  advance();
  return {};
}

void LaneBuild::begin_with(const Gathered& gathered, JobRunner& runner, const Fit& fit) {
  gathering_ = gathered;
  gathered_ = &gathered.state();
  runner_ = &runner;
  jobs_.emplace(project_, fit);
  if (!outputs_.empty()) return;
  for (const auto& output : project_.outputs()) outputs_.push_back({.output = &output});
}

/// False where it need not run.
bool LaneBuild::add_job(Job job, std::function<void(bool)> ended) {
  if (job.kind != Job::Kind::compile) others_.push_back(job);
  const bool added = runner_->add(std::move(job), record_, [this, ended](const Job& done, JobOutcome outcome) {
    const BuildStep step = step_of(done, std::move(outcome));
    ended(step.good);
    add_step(step);
    advance();
  });
  if (!added) ended(true);
  return added;
}

BuildStep LaneBuild::step_of(const Job& job, JobOutcome outcome) {
  return {.kind = static_cast<BuildStep::Kind>(job.kind),
          .lane = job.lane,
          .subject = job.subject,
          .command = command_making(job, job.product),
          .good = outcome.good,
          .log = std::move(outcome.log),
          .cause = std::move(outcome.cause)};
}

std::vector<Job> LaneBuild::compiles_of(Made& made) {
  made.commands = 0;
  std::vector<Job> jobs;
  for (const auto& source : gathered_->sources_for(*made.output, lane_)) {
    jobs.push_back(jobs_->compile(*made.output, source));
    const Job& job = jobs.back();
    made.commands = followed_by(made.commands, command_digest(job) ^ quick_digest(job.product));
  }
  return jobs;
}

/// An output that a refused library is for is not begun: what it would say is known.
bool LaneBuild::refuse(Made& made) {
  if (!plan_ || !plan_->is_refused(*made.output)) return false;
  commands_known_ = false;
  made.phase = Phase::failed;
  return true;
}

void LaneBuild::compile(Made& made) {
  if (refuse(made)) return;
  made.again = false;
  made.phase = Phase::compiling;
  auto jobs = compiles_of(made);
  made.compiles = jobs.size();
  std::vector<fs::path> fresh;
  for (auto& job : jobs) {
    fs::path object = job.product;
    const bool runs = add_job(std::move(job), [&made](bool good) {
      --made.compiles;
      if (!good) made.phase = Phase::failed;
    });
    if (!runs) fresh.push_back(std::move(object));
  }
  if (made.compiles > 0 && made.output->kind != OutputKind::static_library) read_meanwhile(std::move(fresh));
}

/// With the libraries there: what was begun without them stands where its commands are the same.
void LaneBuild::compile_again(Made& made) {
  const uint64_t begun = made.commands;
  if (refuse(made)) return;
  compiles_of(made);
  if (made.commands == begun) return;
  made.again = true;  // once what runs has ended: it makes the same files
  made.phase = Phase::compiling;
}

/// The link is planned from all objects: those that stay are read while the others are compiled.
void LaneBuild::read_meanwhile(std::vector<fs::path> objects) {
  const Target machine = (plan_ ? plan_->fit() : *ahead_).toolchain.target;
  runner_->while_waiting(
      [this, machine, objects = std::move(objects)] { gathered_->files.open_ahead(objects, machine); });
}

/// Brings every output as far as it can come now.
void LaneBuild::advance() {
  if (advancing_) return;
  advancing_ = true;
  while (std::any_of(outputs_.begin(), outputs_.end(), [this](Made& made) { return go_on(made); })) {}
  advancing_ = false;
}

/// One step of one output; false when it has to wait, or is done.
bool LaneBuild::go_on(Made& made) {
  if (!plan_) return false;
  if (made.again && made.compiles == 0) {
    compile(made);
    return true;
  }
  if (made.phase == Phase::compiling && made.compiles == 0) {
    own_[made.output->name].objects = objects_of(*gathered_, lane_, *made.output);
    made.phase = Phase::waiting;
    return true;
  }
  if (made.phase != Phase::waiting || error_) return false;
  for (const auto& name : made.output->uses.value_or(std::vector<std::string>{})) {
    const auto used =
        std::find_if(outputs_.begin(), outputs_.end(), [&](const Made& m) { return m.output->name == name; });
    if (used == outputs_.end() || used->output->kind == OutputKind::program) continue;
    if (used->phase == Phase::failed) {
      made.phase = Phase::failed;
      return true;
    }
    if (used->phase != Phase::made) return false;
  }
  made.phase = Phase::making;
  const auto going = make(made);
  if (!going) error_ = going.error();
  if (!going || !*going) made.phase = Phase::failed;
  return true;
}

/// Archives or links an output whose objects are there; false when its link cannot work.
Result<bool> LaneBuild::make(Made& made) {
  const Output& output = *made.output;
  const auto& objects = own_[output.name].objects;
  if (output.kind == OutputKind::static_library) {
    add_job(jobs_->archive(output, objects), [this, &made](bool good) { end(made, good); });
    return true;
  }
  auto works = plan_->plan_link(output, own_);
  if (!works || !*works) return works;
  Job job = jobs_->link(output, objects);
  for (const auto& name : output.uses.value_or(std::vector<std::string>{})) {
    if (const auto own = own_.find(name); own != own_.end() && !own->second.product.empty())
      job.inputs.push_back(own->second.product.string());
  }
  add_job(std::move(job), [this, &made](bool good) { end(made, good); });
  return true;
}

void LaneBuild::end(Made& made, bool good) {
  const Output& output = *made.output;
  made.phase = good ? Phase::made : Phase::failed;
  if (!good) return;
  own_[output.name].product = project_.product_of(lane_, plan_->fit().toolchain, output);
  if (!output.image.empty()) make_images(made);
}

void LaneBuild::make_images(Made& made) {
  made.phase = Phase::imaging;
  auto left = std::make_shared<size_t>(made.output->image.size());
  for (const auto& form : made.output->image) {
    add_job(image_job(plan_->fit(), *made.output, own_[made.output->name].product, form), [&made, left](bool good) {
      if (!good) made.phase = Phase::failed;
      if (--*left == 0 && made.phase == Phase::imaging) made.phase = Phase::made;
    });
  }
}

BuiltOutput LaneBuild::built_output(const Output& output) {
  BuiltOutput built{output.name, output.kind, own_.at(output.name).product};
  const OutputLink* link = output.kind == OutputKind::program ? plan_->fit().link(output.name) : nullptr;
  if (link == nullptr || link->settings.script.empty()) return built;
  built.memory = memory_use(built.path, link->settings.script).value_or(std::vector<MemoryUse>());
  if (!output.placement.empty())
    built.placements =
        placements_in(built.path, link->settings.script, output.placement).value_or(std::vector<Placement>());
  return built;
}

/// What was made can be started, whatever became of the rest. What goes wrong here is told once all is made.
void LaneBuild::place_for_those_made() {
  if (plan_->follow(own_)) static_cast<void>(place_runtime_files(project_, plan_->fit(), false));
}

Result<void> LaneBuild::finish() {
  if (error_) return fail(std::move(*error_));
  if (!plan_) {
    // The build was stopped before its libraries were built.
    for (const auto& output : project_.outputs()) report_.not_made.push_back(output.name);
    report_.fit = std::move(ahead_);
    return {};
  }
  for (const auto& made : outputs_) {
    if (made.phase == Phase::made) {
      report_.products.push_back(built_output(*made.output));
    } else {
      report_.not_made.push_back(made.output->name);
      own_.erase(made.output->name);
    }
  }
  report_.good = report_.not_made.empty();
  if (!report_.good && !report_.products.empty()) place_for_those_made();
  for (const auto& output : gathered_->project.outputs()) {
    if (!output.made_elsewhere) continue;
    const auto works = plan_->plan_link(output, own_);
    if (!works) return fail(works.error());
    report_.good = report_.good && *works;
  }
  if (report_.good) {
    if (auto followed = plan_->follow(own_); !followed) return followed;
  }
  report_.fit = plan_->fit();
  for (auto& misfit : judge_placements(project_, report_.products)) {
    report_.good = report_.good && misfit.verdict != Verdict::misfit;
    report_.fit->link_misfits.push_back(std::move(misfit));
  }
  report_.misfits = report_.fit->misfits();
  if (!report_.good) return {};
  auto others = record_.drop_others();
  if (!others) return pass(others);
  const auto folder = Folder::open(project_.folder_of(lane_));
  if (!folder) return fail(folder.error());
  for (const auto& product : *others) {
    // Of an output or a source that the project has no more; still as it was made, so it is nobody else's.
    if (const auto inside = inside_of(*folder, product); !inside.empty()) (void)folder->remove(inside);
  }
  if (auto written = emit::lane_files(*report_.fit); !written) return written;
  return without_value(place_runtime_files(project_, *report_.fit));
}

/// Where it cannot be kept, the next build plans.
void LaneBuild::keep_recipe() {
  recipe_ = 0;
  const auto recipe = recipe_of(*gathered_, *report_.fit, *jobs_, std::move(others_));
  if (!recipe) return;
  const std::string text = text_of(*recipe);
  recipe_ = quick_digest(text);
  keep_answer(Cache::standard(), kept_kind::recipes, project_.folder_of(lane_).string(), text);
}

/// The one that belongs to what the record says.
std::optional<std::string> LaneBuild::kept_recipe() const {
  auto text = kept_answer(Cache::standard(), kept_kind::recipes, project_.folder_of(lane_).string());
  return text && quick_digest(*text) == recipe_ ? text : std::nullopt;
}

Result<void> LaneBuild::settle(const Shelf& shelf, int64_t began) {
  if (!report_.good || !report_.fit) return {};
  keep_recipe();
  const auto premises = premises_of(*gathered_, *report_.fit, began);
  if (!premises) return {};
  // Everything is made; where that cannot be remembered, it costs the next build time and nothing else.
  static_cast<void>(record_.settle(settlement_text(project_, lane_, shelf, report_, recipe_), *premises));
  return {};
}

}  // namespace fibula
