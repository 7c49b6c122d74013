#include "choose/set_rules.hpp"
#include "fit/compile_plan.hpp"
#include "fit/gathered.hpp"
#include "fit/header_check.hpp"
#include "fit/header_order.hpp"
#include "fit/lane_closures.hpp"
#include "fit/link_plan.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

class Planner {
 public:
  Planner(Gathered::State& state, const GatheredLane& lane, const PlanOptions& options)
      : state_(state), lane_(lane), options_(options), fit_(compile_plan(state.project, lane)) {}

  Result<Fit> plan() {
    judge_headers();
    judge_set();
    if (options_.through == PlanThrough::compiling) return std::move(fit_);
    for (const auto& [name, own] : options_.own) {
      for (const auto& object : own.objects) state_.files.refresh(object);
      state_.files.refresh(own.product);
    }
    for (const auto& output : state_.project.outputs()) {
      if (output.kind == OutputKind::static_library) continue;
      if (auto planned = add_link(output); !planned) return pass(planned);
    }
    if (options_.through == PlanThrough::linking || fit_.verdict() == Verdict::misfit) return std::move(fit_);
    auto closures = closures_of_lane(state_.project, fit_, options_.own, lane_.placed, state_.cache);
    if (!closures) return pass(closures);
    fit_.closures = std::move(*closures);
    return std::move(fit_);
  }

 private:
  Chooser chooser() const { return {state_.project, lane_.lane, lane_.toolchain, state_.cards, &state_.lock}; }

  void judge_headers() {
    static const Variant no_binaries;
    for (const auto& [name, choice] : lane_.choices) {
      if (!choice.card || choice.card->public_headers.empty()) continue;
      const Variant& variant = choice.variant ? *choice.variant : no_binaries;
      const auto reading = lane_.headers.find(name);
      if (reading == lane_.headers.end()) continue;
      add_words(fit_, name, match_headers(pairing_of(*choice.card, variant, choice, chooser()), reading->second));
    }
  }

  void judge_set() {
    std::vector<const Choice*> chosen;
    for (const auto& [name, choice] : lane_.choices) chosen.push_back(&choice);
    auto said = match_set(chosen, fit_.toolchain);
    for (auto& word : hidden_headers(fit_.include_directories, lane_.choices)) said.push_back(std::move(word));
    for (auto& word : said) {
      const std::string library = word.library;
      add_words(fit_, library, {std::move(word)});
    }
  }

  Result<void> add_link(const Output& output) {
    LinkQuestion question{.project = state_.project,
                          .lane = lane_.lane,
                          .toolchain = fit_.toolchain,
                          .shelf = state_.shelf,
                          .output = output,
                          .choices = {},
                          .own = options_.own};
    for (const auto& use : lane_.uses.at(output.name)) question.choices.push_back(lane_.choices.at(use.name));
    auto plan = plan_link(state_, question);
    if (!plan) return pass(plan);
    fit_.links.push_back(std::move(plan->link));
    // A library that was refused explains what is missing; saying it twice would hide the cause.
    const auto refused = [](const Choice& choice) { return choice.chosen.verdict == Verdict::misfit; };
    if (std::any_of(question.choices.begin(), question.choices.end(), refused)) return {};
    for (auto& misfit : plan->misfits) fit_.link_misfits.push_back(std::move(misfit));
    return {};
  }

  Gathered::State& state_;
  const GatheredLane& lane_;
  const PlanOptions& options_;
  Fit fit_;
};

}  // namespace

Result<Fit> plan(const Gathered& gathered, const Lane& lane, const PlanOptions& options) {
  auto& state = gathered.state();
  const auto is_it = [&](const GatheredLane& one) { return one.lane.name == lane.name; };
  const auto found = std::find_if(state.found.begin(), state.found.end(), is_it);
  if (found == state.found.end())
    return fail({.code = Code::usage,
                 .what = fmt::format("lane {} is none of those that were gathered for", lane.name),
                 .file = state.project.file().string()});
  if (found->problem) return fail(*found->problem);
  return Planner(state, *found, options).plan();
}

}  // namespace fibula
