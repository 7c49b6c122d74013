#include "take/draft_joins.hpp"

#include "os/files.hpp"
#include "take/draft_facts.hpp"
#include "take/unit_relations.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// For one machine, linkage and configuration, as far as names tell it.
bool are_of_a_kind(const Draft& one, const Draft& other) {
  return one.variant.target == other.variant.target && one.variant.linkage == other.variant.linkage &&
         one.hint.configuration == other.hint.configuration;
}

}  // namespace

bool goes_with(const Draft& draft, const Unit& unit) {
  return unit.is_shared() && std::any_of(draft.units.begin(), draft.units.end(), [&](const Unit* other) {
           return folder_of(*other) == folder_of(unit) && are_linked(*other, unit);
         });
}

bool is_alternative(const Draft& draft, const Unit& unit) {
  return std::any_of(draft.units.begin(), draft.units.end(),
                     [&](const Unit* other) { return are_alternatives(unit, *other); });
}

void join_linked(std::vector<Draft>& drafts) {
  const auto tied = [](const Draft& one, const Draft& other) {
    return are_of_a_kind(one, other) &&
           std::any_of(other.units.begin(), other.units.end(),
                       [&](const Unit* unit) { return goes_with(one, *unit); }) &&
           std::none_of(other.units.begin(), other.units.end(),
                        [&](const Unit* unit) { return is_alternative(one, *unit); });
  };
  for (size_t i = 0; i < drafts.size(); ++i) {
    for (size_t j = i + 1; j < drafts.size();) {
      if (!tied(drafts[i], drafts[j])) {
        ++j;
        continue;
      }
      for (const Unit* unit : drafts[j].units) add_unit(*unit, drafts[i]);
      drafts.erase(drafts.begin() + static_cast<std::ptrdiff_t>(j));
      j = i + 1;
    }
  }
}

void complete_alternatives(std::vector<Draft>& drafts, Source& source) {
  for (size_t i = 0; i < drafts.size(); ++i) {
    const auto is_whole = [&](const Draft& whole) {
      const Draft& part = drafts[i];
      return &whole != &part && are_of_a_kind(whole, part) && whole.units.size() > part.units.size() &&
             std::all_of(part.units.begin(), part.units.end(), [&](const Unit* unit) {
               return std::any_of(whole.units.begin(), whole.units.end(), [&](const Unit* other) {
                 return folder_of(*unit) == folder_of(*other) && are_alternatives(*unit, *other);
               });
             });
    };
    const auto whole = std::find_if(drafts.begin(), drafts.end(), is_whole);
    if (whole == drafts.end()) continue;
    std::vector<const Unit*> rest, replaced;
    for (const Unit* unit : whole->units) (is_alternative(drafts[i], *unit) ? replaced : rest).push_back(unit);
    const auto needed = std::find_if(replaced.begin(), replaced.end(), [&](const Unit* unit) {
      return std::any_of(rest.begin(), rest.end(), [&](const Unit* user) { return are_linked(*user, *unit); });
    });
    if (needed == replaced.end()) {
      for (const Unit* unit : rest) add_unit(*unit, drafts[i]);
      continue;
    }
    source.remarks.push_back(fmt::format("{} left out of links: it offers what {} does, which others here need",
                                         drafts[i].units.front()->first().file, (*needed)->first().file));
    drafts.erase(drafts.begin() + static_cast<std::ptrdiff_t>(i--));
  }
}

void join_parts(const Source& source, std::vector<Draft>& drafts) {
  const auto belongs_to = [&](const Draft& part, const Draft& whole) {
    if (whole.variant.linkage != Linkage::shared || whole.variant.target != part.variant.target) return false;
    return std::all_of(part.units.begin(), part.units.end(), [&](const Unit* unit) {
      return std::any_of(whole.units.begin(), whole.units.end(), [&](const Unit* other) {
        return !offer_the_same(other->offers, unit->offers) &&
               needs_one_of(source.root / unit->first().file, other->offers);
      });
    });
  };
  std::vector<bool> joined(drafts.size(), false);
  for (size_t i = 0; i < drafts.size(); ++i) {
    if (drafts[i].variant.linkage != Linkage::static_) continue;
    for (auto& whole : drafts) {
      if (!belongs_to(drafts[i], whole)) continue;
      whole.units.insert(whole.units.end(), drafts[i].units.begin(), drafts[i].units.end());
      joined[i] = true;
    }
  }
  std::vector<Draft> left;
  for (size_t i = 0; i < drafts.size(); ++i) {
    if (!joined[i]) left.push_back(std::move(drafts[i]));
  }
  drafts = std::move(left);
}

}  // namespace fibula
