#include "build/lane_build.hpp"

#include <fibula/emit.hpp>
#include <fibula/stage.hpp>

#include "base/digest.hpp"
#include "build/image_job.hpp"
#include "build/placement_rules.hpp"
#include "build/settlement.hpp"
#include "os/folder.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

fs::path record_file(const Project& project, const Lane& lane) {
  return project.folder_of(lane) / "record";
}

LaneBuild::LaneBuild(const Project& project, const Lane& lane, std::function<void(const BuildStep&)> stepped)
    : project_(project), lane_(lane), stepped_(std::move(stepped)), record_(record_file(project, lane)) {
  report_.lane = lane.name;
}

bool LaneBuild::is_settled(const Shelf& shelf) {
  const auto outcome = record_.settled();
  return outcome && read_settlement(*outcome, project_, lane_, shelf, report_);
}

Result<void> LaneBuild::begin(const Gathered& gathered, JobRunner& runner) {
  auto plan = LanePlan::open(gathered, lane_);
  if (!plan) return pass(plan);
  plan_.emplace(std::move(*plan));
  report_.target = plan_->fit().toolchain.target;
  if (auto written = emit::shared_headers(plan_->fit()); !written) return written;
  jobs_.emplace(project_, plan_->fit());
  runner_ = &runner;
  gathered_ = &gathered.state();
  for (const auto& output : project_.outputs()) outputs_.push_back({.output = &output});
  for (auto& made : outputs_) compile(made);
  advance();
  return {};
}

/// False where it need not run.
bool LaneBuild::add_job(Job job, std::function<void(bool)> ended) {
  const std::string product = job.product;
  const bool added = runner_->add(std::move(job), record_, [this, ended](const Job& done, JobOutcome outcome) {
    BuildStep step{.kind = static_cast<BuildStep::Kind>(done.kind),
                   .lane = done.lane,
                   .subject = done.subject,
                   .command = command_making(done, done.product),
                   .good = outcome.good,
                   .log = std::move(outcome.log),
                   .cause = std::move(outcome.cause)};
    report_.steps.push_back(step);
    ended(outcome.good);
    stepped_(step);
    advance();
  });
  if (!added) ended(true);
  return added;
}

/// An output that a refused library is for is not begun: what it would say is known.
void LaneBuild::compile(Made& made) {
  const Output& output = *made.output;
  if (plan_->is_refused(output)) {
    commands_known_ = false;
    made.phase = Phase::failed;
    return;
  }
  const auto sources = gathered_->sources_for(output, lane_);
  made.compiles = sources.size();
  std::vector<fs::path> fresh;
  for (const auto& source : sources) {
    Job job = jobs_->compile(output, source);
    // A plain sum would not see two that change places; this one does, and costs nothing.
    commands_digest_ = commands_digest_ * 0x100000001b3U + (command_digest(job) ^ quick_digest(job.product));
    fs::path object = job.product;
    const bool runs = add_job(std::move(job), [&made](bool good) {
      --made.compiles;
      if (!good) made.phase = Phase::failed;
    });
    if (!runs) fresh.push_back(std::move(object));
  }
  if (made.compiles > 0 && output.kind != OutputKind::static_library) read_meanwhile(std::move(fresh));
}

/// The link is planned from all objects: those that stay are read while the others are compiled.
void LaneBuild::read_meanwhile(std::vector<fs::path> objects) {
  const Target machine = plan_->fit().toolchain.target;
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
    report_.fit->link_misfits.push_back(std::move(misfit));
    report_.good = false;
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

Result<void> LaneBuild::settle(const Shelf& shelf, int64_t began) {
  if (!report_.good || !report_.fit) return {};
  const auto premises = premises_of(*gathered_, *report_.fit, began);
  if (!premises) return {};
  // Everything is made; where that cannot be remembered, it costs the next build time and nothing else.
  static_cast<void>(record_.settle(settlement_text(project_, lane_, shelf, report_), *premises));
  return {};
}

}  // namespace fibula
