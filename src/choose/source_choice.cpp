#include "choose/source_choice.hpp"

#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

class SourceSettler {
 public:
  SourceSettler(LibrarySet& set, const Chooser& chooser, const fs::path& own_store)
      : set_(set), chooser_(chooser), own_store_(own_store) {}

  /// What a library requires is settled before it: its key is part of the library's.
  Result<void> settle(const std::string& name) {
    if (!seen_.insert(name).second) return {};
    Choice& choice = set_.choices.at(name);
    RequirementKeys keys;
    if (const auto required = set_.requires_.find(name); required != set_.requires_.end()) {
      for (const auto& other : required->second) {
        if (other == name || !set_.choices.contains(other)) continue;
        if (auto settled = settle(other); !settled) return settled;
        keys[other] = key_of(set_.choices.at(other));
      }
    }
    const bool from_source = choice.card != nullptr && choice.variant == nullptr && choice.card->comes_as_source();
    return from_source ? settle_one(choice, keys) : Result<void>();
  }

 private:
  static std::string key_of(const Choice& choice) {
    if (choice.source) return choice.source->key;
    return fmt::format("{} {}", choice.chosen.digest, choice.variant != nullptr ? choice.variant->id : "");
  }

  Result<void> settle_one(Choice& choice, const RequirementKeys& keys) {
    auto planned = plan_source(*choice.card, choice, chooser_, keys);
    if (!planned) return fail(planned.error());
    const auto plan = std::make_shared<const SourcePlan>(std::move(*planned));
    choice.source = plan;
    if (plan->problem) {
      refuse(choice, *plan->problem);
      return {};
    }
    auto outcome = find_built(*plan, chooser_.cards.shelf(), own_store_);
    if (!outcome) return fail(outcome.error());
    if (!*outcome) {
      choice.promised = std::make_shared<const Variant>(promised_variant(*plan, chooser_));
      choice.variant = choice.promised.get();
      choice.chosen.linkage = plan->linkage;
      choice.chosen.variant = choice.variant->id;
      choice.chosen.to_build = plan->work();
      choice.chosen.why = fmt::format("from source, {}: fibula build makes it", plan->work());
      return {};
    }
    const Card& card = chooser_.cards.keep(built_card(*plan, **outcome));
    choice.card = nullptr;
    auto said = std::move(choice.chosen.misfits);
    if (take_variant(card, chooser_, choice)) choice.chosen.why = "built from source, " + choice.chosen.why;
    choice.chosen.misfits.insert(choice.chosen.misfits.end(), said.begin(), said.end());
    choice.chosen.verdict = worst(choice.chosen.misfits);
    choice.chosen.files.clear();  // they lie where this machine keeps what it built
    return {};
  }

  static void refuse(Choice& choice, const Misfit& problem) {
    choice.card = nullptr;
    choice.chosen.misfits.push_back(problem);
    choice.chosen.verdict = Verdict::misfit;
  }

  LibrarySet& set_;
  const Chooser& chooser_;
  const fs::path& own_store_;
  std::set<std::string> seen_;
};

}  // namespace

Result<std::optional<Card>> find_built(const SourcePlan& plan, const Shelf& shelf, const fs::path& own_store) {
  if (!plan.card->is_open()) {
    auto found = shelf.built(plan.place());
    if (!found || *found) return found;
  }
  auto own = Shelf::at(own_store).built(plan.place());
  return own;
}

Result<void> settle_sources(LibrarySet& set, const Chooser& chooser, const fs::path& own_store) {
  SourceSettler settler(set, chooser, own_store);
  for (const auto& [name, choice] : set.choices) {
    if (auto settled = settler.settle(name); !settled) return settled;
  }
  return {};
}

}  // namespace fibula
