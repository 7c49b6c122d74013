#include "build/library_builds.hpp"

#include "build/library_build.hpp"
#include "choose/source_choice.hpp"
#include "fit/gathered.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <deque>
#include <memory>

namespace fibula {
namespace {

class LibraryBuilder {
 public:
  LibraryBuilder(const Project& project, const Shelf& shelf, const BuildOptions& options,
                 const JobRunner::Options& running)
      : project_(project), shelf_(shelf), options_(options), runner_(running) {}

  Result<std::map<std::string, LibraryReport>> build(const Gathered& gathered) {
    for (const auto& lane : gathered.state().found) collect(lane);
    if (builds_.empty()) return std::move(reports_);
    advance();
    if (error_) return fail(std::move(*error_));
    if (auto ran = runner_.run(); !ran) return pass(ran);
    if (error_) return fail(std::move(*error_));
    const auto stopped = why_stopped();
    for (const auto& build : builds_) {
      if (build->phase() == LibraryBuild::Phase::kept) continue;
      if (!build->failure()) build->fail_because(stopped.first, stopped.second);
      reports_[build->lane()].failed.emplace(build->name(), *build->failure());
    }
    return std::move(reports_);
  }

 private:
  /// Told of what was not built to its end, with its remedy.
  std::pair<std::string, std::string> why_stopped() const {
    const auto failed = std::find_if(builds_.begin(), builds_.end(), [](const auto& one) { return one->failure(); });
    if (failed == builds_.end()) return {"building it was stopped", "fibula build"};
    return {
        fmt::format("building it was stopped when that of {} failed in lane {}", (*failed)->name(), (*failed)->lane()),
        "correct that, and build again"};
  }

  void collect(const GatheredLane& lane) {
    if (lane.problem) return;
    for (const auto& [name, choice] : lane.choices) {
      if (!choice.is_pending()) continue;
      (void)reports_[lane.lane.name];  // there was something to build
      builds_.push_back(std::make_unique<LibraryBuild>(project_, shelf_, lane, choice,
                                                       [this, name = lane.lane.name](const BuildStep& step) {
                                                         reports_[name].steps.push_back(step);
                                                         if (options_.progress)
                                                           options_.progress(step, {runner_.ended(), runner_.added()});
                                                       }));
      lanes_.push_back(&lane);
    }
  }

  /// Begins what waits for nothing any more. A build that begins can end at once, so it is looked again.
  void advance() {
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
  }

  /// Another build that makes the very same, begun before this one.
  const LibraryBuild* twin_of(const LibraryBuild& build) const {
    for (const auto& other : builds_) {
      if (other.get() == &build) return nullptr;
      if (!build.lies_open() && !other->lies_open() && other->plan().place() == build.plan().place())
        return other.get();
    }
    return nullptr;
  }

  const LibraryBuild* build_of(const std::string& lane, const std::string& library) const {
    const auto found = std::find_if(builds_.begin(), builds_.end(), [&](const auto& build) {
      return build->lane() == lane && build->name() == library;
    });
    return found == builds_.end() ? nullptr : found->get();
  }

  bool go_on(LibraryBuild& build, const GatheredLane& lane) {
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
  const Choice* built_choice(const Choice& pending, const GatheredLane& lane) {
    auto outcome = find_built(*pending.source, project_.shelf(shelf_), own_store_of(project_, lane.lane));
    if (!outcome || !*outcome) return nullptr;
    const Card& card = cards_.emplace_back(built_card(*pending.source, **outcome));
    Choice choice = pending;
    choice.card = &card;
    choice.variant = card.variants.empty() ? nullptr : &card.variants.front();
    choice.promised = nullptr;
    return &choices_.emplace_back(std::move(choice));
  }

  const Project& project_;
  const Shelf& shelf_;
  const BuildOptions& options_;
  JobRunner runner_;
  std::vector<std::unique_ptr<LibraryBuild>> builds_;
  std::vector<const GatheredLane*> lanes_;  ///< of each build
  std::deque<Card> cards_;
  std::deque<Choice> choices_;
  std::map<std::string, LibraryReport> reports_;
  std::optional<Error> error_;
  bool advancing_ = false;
};

}  // namespace

Result<std::map<std::string, LibraryReport>> build_libraries(const Gathered& gathered, const Shelf& shelf,
                                                             const BuildOptions& options,
                                                             const JobRunner::Options& running) {
  return LibraryBuilder(gathered.project(), shelf, options, running).build(gathered);
}

}  // namespace fibula
