#include "build/short_build.hpp"

#include <algorithm>
#include <unordered_map>

namespace fibula {
namespace {

/// With more of them, reading all objects for a plan costs little beside the compiles.
constexpr size_t a_few = 64;

}  // namespace

std::optional<ShortBuild> ShortBuild::open(BuildRecord& record, const std::vector<std::string>& stale,
                                           std::string_view recipe, JobRunner::Done ended) {
  if (stale.empty() || stale.size() > a_few) return std::nullopt;
  auto kept = read_recipe(recipe);
  if (!kept) return std::nullopt;
  ShortBuild build(record, std::move(*kept), std::move(ended));
  for (const auto& object : stale) {
    if (!build.add(object)) return std::nullopt;
  }
  build.find_users();
  return build;
}

/// The recipe must give the very command that made the object.
bool ShortBuild::add(const std::string& object) {
  auto job = recipe_.compile(object);
  if (!job || !record_->was_made_by(object, command_digest(*job))) return false;
  auto before = interface_of(object);
  if (!before) return false;
  compiles_.push_back({std::move(*job), std::move(*before)});
  return true;
}

void ShortBuild::find_users() {
  std::unordered_map<std::string, size_t> makers;
  for (size_t i = 0; i < recipe_.others.size(); ++i) makers[recipe_.others[i].product] = i;
  needs_.resize(recipe_.others.size());
  phases_.resize(recipe_.others.size(), Phase::waiting);
  for (size_t i = 0; i < recipe_.others.size(); ++i) {
    for (const auto& input : recipe_.others[i].inputs) {
      if (const auto maker = makers.find(input); maker != makers.end() && maker->second != i)
        needs_[i].push_back(maker->second);
    }
  }
}

void ShortBuild::begin(JobRunner& runner) {
  runner_ = &runner;
  compiling_ = compiles_.size();
  runner.while_busy([record = record_] { record->index_states(); });  // the first compile that ends asks for it
  for (const auto& compile : compiles_) {
    const bool added = runner.add(compile.job, *record_, [this](const Job& job, JobOutcome outcome) {
      const bool good = outcome.good;
      if (good) ended_(job, std::move(outcome));
      one_compiled(good);
    });
    if (!added) one_compiled(true);
  }
}

void ShortBuild::one_compiled(bool good) {
  failed_ = failed_ || !good;
  if (--compiling_ > 0 || failed_ || !shows_the_same()) return;
  go_on();
}

bool ShortBuild::shows_the_same() const {
  const auto is_spoken_of = [this](std::string_view name) { return recipe_.speaks_of(name); };
  return std::all_of(compiles_.begin(), compiles_.end(), [&](const Compile& compile) {
    const auto after = interface_of(compile.job.product);
    return after && links_alike(compile.before, *after, is_spoken_of);
  });
}

bool ShortBuild::is_waiting(size_t other) const {
  return phases_[other] == Phase::waiting &&
         std::all_of(needs_[other].begin(), needs_[other].end(), [&](size_t i) { return phases_[i] == Phase::made; });
}

/// Gives the runner what can be made now; what is as it was is passed over.
void ShortBuild::go_on() {
  for (bool moved = true; moved && !failed_;) {
    moved = false;
    for (size_t i = 0; i < phases_.size(); ++i) {
      if (!is_waiting(i)) continue;
      phases_[i] = Phase::running;
      const bool added = runner_->add(recipe_.others[i], *record_, [this, i](const Job& job, JobOutcome outcome) {
        failed_ = failed_ || !outcome.good;
        if (outcome.good) ended_(job, std::move(outcome));
        phases_[i] = Phase::made;
        go_on();
      });
      if (!added) phases_[i] = Phase::made;
      moved = moved || !added;
    }
  }
  whole_ = !failed_ && std::all_of(phases_.begin(), phases_.end(), [](Phase phase) { return phase == Phase::made; });
}

}  // namespace fibula
