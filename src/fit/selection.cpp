#include "fit/selection.hpp"

#include "base/files.hpp"
#include "base/text.hpp"
#include "base/version.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// The versions that may serve, newest first: from the project's own folder, or the shelf.
Result<std::vector<Card>> candidates(const LibraryUse& use, const Shelf& shelf) {
  if (use.folder.empty()) return shelf.versions(use.name);
  auto card = read_card(use.folder);
  if (!card) return pass(card);
  return std::vector<Card>{std::move(*card)};
}

Misfit not_there(const LibraryUse& use, const Shelf& shelf, const Project& project,
                 const std::vector<std::string>& versions) {
  Misfit misfit{.rule = "library", .subject = use.name, .library = use.name};
  misfit.evidence.push_back(fmt::format("{} ({}) attaches {}{}", project.file().string(), use.place, use.name,
                                        use.version.empty() ? "" : " " + use.version));
  const std::string there = versions.empty() ? "no version of it" : text::join(versions, ", ");
  misfit.evidence.push_back(fmt::format("shelf {} has {}", shelf.folder().string(), there));
  misfit.remedy = versions.empty() ? fmt::format("put it on the shelf: fibula take FOLDER --name {}", use.name)
                                   : "take a version in the range, or widen the range in fibula.toml";
  return misfit;
}

/// Better variants first: the lane's own configuration before one that does not say, before the other; then the
/// preferred linkage.
int rank(const Variant& variant, const Lane& lane, bool in_place) {
  const int configuration = variant.configuration == lane.configuration ? 0
                            : variant.configuration == "unknown"        ? 1
                                                                        : 2;
  // Files of the system are run with the system; a library of one's own costs nothing at run time when it is linked in.
  const Linkage preferred = in_place ? Linkage::shared : Linkage::static_;
  return configuration * 2 + (variant.linkage == preferred ? 0 : 1);
}

std::string reason(const Variant& variant, const Card& card, const LibraryUse& use, const Lane& lane,
                   size_t alternatives) {
  std::string text = fmt::format("for {}", to_string(variant.target));
  if (use.linkage != Linkage::any) text += fmt::format(", {} as asked", to_string(use.linkage));
  if (use.linkage == Linkage::any && alternatives > 1) {
    text += card.in_place ? fmt::format(", {}: its files belong to the system", to_string(variant.linkage))
                          : fmt::format(", {}: needs no file at run time", to_string(variant.linkage));
    if (card.in_place != (variant.linkage == Linkage::shared))
      text = fmt::format("for {}, {}", to_string(variant.target), to_string(variant.linkage));
  }
  if (variant.configuration == lane.configuration) text += fmt::format(", {} like the lane", lane.configuration);
  return text;
}

struct Assessment {
  const Variant* variant;
  std::vector<Misfit> misfits;
};

/// The variants of a card, those that serve best first; those that do not serve after them, fewest objections first.
std::vector<Assessment> assess(const Card& card, const LibraryUse& use, const Lane& lane, const Toolchain& toolchain) {
  std::vector<Assessment> all;
  for (const auto& variant : card.variants) all.push_back({&variant, match({card, variant, use, toolchain, lane})});
  std::stable_sort(all.begin(), all.end(), [&](const Assessment& a, const Assessment& b) {
    const auto key = [&](const Assessment& x) {
      return std::tuple(worst(x.misfits), x.misfits.size(), rank(*x.variant, lane, card.in_place));
    };
    return key(a) < key(b);
  });
  return all;
}

/// Takes the best variant of a card; false when none serves, with the nearest one's misfits.
bool take_variant(const Card& card, const Lane& lane, const Toolchain& toolchain, Choice& choice) {
  choice.chosen.version = card.version;
  if (card.headers_only()) {
    choice.card = card;
    choice.chosen.why = "headers only: nothing to link";
    return true;
  }
  const auto assessed = assess(card, choice.use, lane, toolchain);
  const Assessment& best = assessed.front();
  choice.chosen.misfits = best.misfits;
  choice.chosen.verdict = worst(best.misfits);
  if (choice.chosen.verdict == Verdict::misfit) return false;
  const auto serves = [](const Assessment& a) { return worst(a.misfits) != Verdict::misfit; };
  choice.card = card;
  choice.variant = *best.variant;
  choice.chosen.variant = best.variant->id;
  choice.chosen.why = reason(*best.variant, card, choice.use, lane,
                             static_cast<size_t>(std::count_if(assessed.begin(), assessed.end(), serves)));
  return true;
}

}  // namespace

Result<Choice> choose(const LibraryUse& use, const Lane& lane, const Toolchain& toolchain, const Shelf& shelf,
                      const Project& project) {
  Choice choice{.use = use, .chosen = {.name = use.name}};
  auto cards = candidates(use, shelf);
  if (!cards) return pass(cards);
  const auto range = VersionRange::parse(use.version);
  std::vector<std::string> outside;
  std::optional<ChosenLibrary> newest_refusal;
  for (const auto& card : *cards) {
    if (range && !range->contains(card.version)) {
      outside.push_back(card.version);
      continue;
    }
    if (take_variant(card, lane, toolchain, choice)) return choice;
    if (!newest_refusal) newest_refusal = choice.chosen;
  }
  if (newest_refusal) {
    choice.chosen = *newest_refusal;
    return choice;
  }
  choice.chosen.misfits = {not_there(use, shelf, project, outside)};
  choice.chosen.verdict = Verdict::misfit;
  return choice;
}

}  // namespace fibula
