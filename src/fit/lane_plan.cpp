#include "fit/lane_plan.hpp"

#include "choose/set_rules.hpp"
#include "fit/compile_plan.hpp"
#include "fit/header_check.hpp"
#include "fit/header_order.hpp"
#include "fit/include_check.hpp"
#include "fit/lane_closures.hpp"
#include "fit/link_plan.hpp"
#include "headers/declarations.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

Result<LanePlan> LanePlan::open(const Gathered& gathered, const Lane& lane) {
  auto& state = gathered.state();
  const GatheredLane* found = state.lane_named(lane.name);
  if (found == nullptr)
    return fail({.code = Code::usage,
                 .what = fmt::format("lane {} is none of those that were gathered for", lane.name),
                 .file = state.project.file().string()});
  if (found->problem) return fail(*found->problem);
  return LanePlan(state, *found);
}

LanePlan::LanePlan(Gathered::State& state, const GatheredLane& lane)
    : state_(state), lane_(lane), fit_(compile_plan(state.project, lane)) {
  judge_headers();
  judge_set();
}

void LanePlan::judge_headers() {
  static const Variant no_binaries;
  const Chooser chooser{state_.project, lane_.lane, lane_.toolchain, state_.cards, &state_.lock};
  for (const auto& [name, choice] : lane_.choices) {
    if (!choice.card || choice.card->public_headers.empty()) continue;
    const Variant& variant = choice.variant ? *choice.variant : no_binaries;
    const auto reading = lane_.headers.find(name);
    if (reading == lane_.headers.end()) continue;
    HeaderReading read = reading->second;
    std::erase_if(read.unmatched, [&](const UnmatchedFunction& one) { return is_defined_here(one.function.name); });
    auto said = match_headers(pairing_of(*choice.card, variant, choice, chooser), read);
    // Headers and sources came together: what is not compiled of them is told where somebody needs it.
    if (choice.source) std::erase_if(said, [](const Misfit& misfit) { return misfit.rule == "header-match"; });
    add_words(fit_, name, std::move(said));
  }
}

/// Whether the project's own sources define a function that a library's headers declare, such as a callback.
bool LanePlan::is_defined_here(const std::string& name) const {
  for (const auto& [output, sources] : state_.sources) {
    if (!state_.mentions_of(output).contains(name)) continue;
    for (const auto& source : sources) {
      if (shows_name(read_text(source).value_or(""), name)) return true;
    }
  }
  return false;
}

void LanePlan::judge_set() {
  std::vector<const Choice*> chosen;
  for (const auto& [name, choice] : lane_.choices) chosen.push_back(&choice);
  auto said = match_set(chosen, fit_.toolchain);
  said.insert(said.end(), lane_.changed.begin(), lane_.changed.end());
  for (auto& word : hidden_headers(fit_.include_directories, lane_.choices, state_.cards.files()))
    said.push_back(std::move(word));
  for (auto& word : said) {
    const std::string library = word.library;
    add_words(fit_, library, {std::move(word)});
  }
}

void LanePlan::judge_includes() {
  fit_.compile_misfits = missing_includes(state_, lane_, fit_);
}

bool LanePlan::is_refused(const Output& output) const {
  const auto& uses = lane_.uses.at(output.name);
  return std::any_of(uses.begin(), uses.end(), [&](const LibraryUse& use) {
    const auto is_it = [&](const ChosenLibrary& library) { return library.name == use.name; };
    const auto library = std::find_if(fit_.libraries.begin(), fit_.libraries.end(), is_it);
    return library != fit_.libraries.end() && library->verdict == Verdict::misfit;
  });
}

Result<bool> LanePlan::plan_link(const Output& output, const OwnCode& own) {
  LinkQuestion question{.project = state_.project,
                        .lane = lane_.lane,
                        .toolchain = lane_.toolchain_for(output.name),
                        .shelf = state_.shelf,
                        .output = output,
                        .choices = {},
                        .own = own};
  for (const auto& use : lane_.uses.at(output.name)) question.choices.push_back(lane_.choices.at(use.name));
  auto plan = fibula::plan_link(state_, question);
  if (!plan) return pass(plan);
  const auto [position, fresh] = link_positions_.try_emplace(output.name, fit_.links.size());
  if (fresh) {
    fit_.links.push_back(std::move(plan->link));
  } else {
    fit_.links[position->second] = std::move(plan->link);
  }
  // A library that was refused explains what is missing; saying it twice would hide the cause.
  if (is_refused(output)) plan->misfits.clear();
  const bool works = worst(plan->misfits) != Verdict::misfit;
  link_misfits_[output.name] = std::move(plan->misfits);
  links_changed_ = true;
  return works;
}

void LanePlan::refresh(const OwnCode& own) {
  for (const auto& [name, code] : own) {
    for (const auto& object : code.objects) state_.files.refresh(object);
    state_.files.refresh(code.product);
  }
}

const Fit& LanePlan::fit() {
  if (!std::exchange(links_changed_, false)) return fit_;
  fit_.link_misfits.clear();
  for (const auto& one : state_.project.outputs()) {
    const auto& said = link_misfits_[one.name];
    fit_.link_misfits.insert(fit_.link_misfits.end(), said.begin(), said.end());
  }
  return fit_;
}

/// What keeps a program from starting, as far as no rule about a library has said it. The program is made all the same:
/// it may be meant for a machine that has the file.
void LanePlan::judge_closure(const FileClosure& closure) {
  for (const auto& entry : closure.entries) {
    const auto names_it = [&](const Misfit& misfit) {
      return misfit.rule == "closure" && misfit.subject == entry.name;
    };
    const auto said = fit().misfits();
    if (!is_bad(entry) || std::any_of(said.begin(), said.end(), names_it)) continue;
    const std::string program = closure.path.filename().string();
    fit_.run_misfits.push_back(
        {.rule = "closure",
         .verdict = Verdict::caution,
         .subject = entry.name,
         .library = program,
         .evidence = {fmt::format("{} asks for {}", entry.needed_by, entry.name),
                      entry.path.empty() ? entry.why : fmt::format("{} {}", entry.path, entry.why)},
         .remedy =
             fmt::format("attach the library that brings {}; without it {} does not start here", entry.name, program)});
  }
}

Result<void> LanePlan::follow(const OwnCode& own) {
  auto closures = closures_of_lane(state_.project, fit_, own, lane_.placed, state_.cache);
  if (!closures) return pass(closures);
  fit_.closures = std::move(*closures);
  fit_.run_misfits.clear();
  for (const auto& closure : fit_.closures) judge_closure(closure);
  return {};
}

}  // namespace fibula
