#include "build/library_builds.hpp"

#include "choose/picks.hpp"
#include "choose/source_choice.hpp"
#include "fit/gathered.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

LibraryBuilds::LibraryBuilds(const Gathered& gathered, const Shelf& shelf, const BuildOptions& options,
                             JobRunner& runner, Told told)
    : project_(gathered.project()), shelf_(shelf), options_(options), runner_(runner), told_(std::move(told)) {
  for (const auto& lane : gathered.state().found) collect(lane);
}

void LibraryBuilds::collect(const GatheredLane& lane) {
  if (lane.problem) return;
  for (const auto& [name, choice] : lane.choices) {
    if (!choice.is_pending()) continue;
    open_.insert(lane.lane.name);
    builds_.push_back(std::make_unique<LibraryBuild>(
        project_, shelf_, lane, choice,
        [this, name = lane.lane.name](const BuildStep& step) { told_.stepped(name, step); }));
    lanes_.push_back(&lane);
  }
}

/// Begins what waits for nothing any more. A build that begins can end at once, so it is looked again.
void LibraryBuilds::advance() {
  if (advancing_) return;
  advancing_ = true;
  bool moved = true;
  while (moved && !error_) {
    moved = false;
    for (size_t i = 0; i < builds_.size() && !error_; ++i) {
      if (builds_[i]->phase() == LibraryBuild::Phase::waiting) moved = go_on(*builds_[i], *lanes_[i]) || moved;
    }
  }
  advancing_ = false;
  tell_ended_lanes();
}

void LibraryBuilds::tell_ended_lanes() {
  std::set<std::string> working;
  for (const auto& build : builds_) {
    if (!build->has_ended()) working.insert(build->lane());
  }
  std::vector<std::string> ended;
  std::set_difference(open_.begin(), open_.end(), working.begin(), working.end(), std::back_inserter(ended));
  for (const auto& lane : ended) {
    open_.erase(lane);
    std::map<std::string, Misfit> failed;
    for (const auto& build : builds_) {
      if (build->lane() == lane && build->failure()) failed.emplace(build->name(), *build->failure());
    }
    told_.lane_ended(lane, std::move(failed));
  }
}

/// Another build that makes the very same, begun before this one.
const LibraryBuild* LibraryBuilds::twin_of(const LibraryBuild& build) const {
  for (const auto& other : builds_) {
    if (other.get() == &build) return nullptr;
    if (!build.lies_open() && !other->lies_open() && other->plan().place() == build.plan().place()) return other.get();
  }
  return nullptr;
}

const LibraryBuild* LibraryBuilds::build_of(const std::string& lane, const std::string& library) const {
  const auto found = std::find_if(builds_.begin(), builds_.end(),
                                  [&](const auto& build) { return build->lane() == lane && build->name() == library; });
  return found == builds_.end() ? nullptr : found->get();
}

bool LibraryBuilds::go_on(LibraryBuild& build, const GatheredLane& lane) {
  using Phase = LibraryBuild::Phase;
  if (const LibraryBuild* twin = twin_of(build)) {
    if (twin->phase() == Phase::failed)
      build.fail_because(fmt::format("building it failed in lane {}", twin->lane()), "see what was said there");
    if (twin->phase() == Phase::kept) build.take_over();
    return build.phase() != Phase::waiting;
  }
  std::vector<const Choice*> required;
  for (const auto& name : build.plan().needs) {
    const LibraryBuild* other = build_of(lane.lane.name, name);
    if (other != nullptr && other->phase() == Phase::failed)
      build.fail_because(fmt::format("{}, which it requires, is not built", name), "see what is said of " + name);
    if (other != nullptr && other->phase() != Phase::kept) return build.phase() != Phase::waiting;
    const Choice* choice = other != nullptr ? built_choice(lane.choices.at(name), lane) : &lane.choices.at(name);
    if (choice != nullptr && choice->card != nullptr) required.push_back(choice);
  }
  if (auto begun = build.begin(runner_, required, options_, [this] { advance(); }); !begun) error_ = begun.error();
  return true;
}

/// A choice that was pending when the lane was gathered, with what is built now.
const Choice* LibraryBuilds::built_choice(const Choice& pending, const GatheredLane& lane) {
  auto outcome = find_built(*pending.source, project_.shelf(shelf_), own_store_of(project_, lane.lane));
  if (!outcome || !*outcome) return nullptr;
  const Card& card = cards_.emplace_back(built_card(*pending.source, **outcome));
  Choice choice = pending;
  choice.card = &card;
  const auto picked = std::find_if(card.variants.begin(), card.variants.end(),
                                   [&](const Variant& variant) { return is_picked(variant, pending.use); });
  if (picked == card.variants.end()) return nullptr;  // the fit says what there is to pick
  choice.variant = &*picked;
  choice.promised = nullptr;
  return &choices_.emplace_back(std::move(choice));
}

}  // namespace fibula
