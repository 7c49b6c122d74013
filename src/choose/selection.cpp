#include "choose/selection.hpp"

#include <fibula/judge.hpp>

#include "base/text.hpp"
#include "base/toml.hpp"
#include "base/version.hpp"
#include "choose/picks.hpp"
#include "choose/source_plan.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <tuple>

namespace fibula {
namespace {

Misfit not_there(const LibraryUse& use, const Shelf& shelf, const Project& project,
                 const std::vector<std::string>& versions) {
  Misfit misfit{.rule = "library", .subject = use.name, .library = use.name};
  misfit.evidence.push_back(fmt::format("{}:{} attaches {}{}", project.file().string(), use.line, use.name,
                                        use.version.empty() ? "" : " " + use.version));
  const std::string there = versions.empty() ? "no version of it" : text::join(versions, ", ");
  misfit.evidence.push_back(fmt::format("shelf {} has {}", shelf.shown(), there));
  misfit.remedy = versions.empty() ? fmt::format("put it on the shelf: fibula take FOLDER --name {}", use.name)
                                   : "take a version in the range, or widen the range in fibula.toml";
  return misfit;
}

/// How far away a variant is that does not serve: one for another format is further than one for another machine, and
/// that further than one whose run-time differs.
int distance(const std::vector<Misfit>& misfits) {
  int farthest = 0;
  for (const auto& misfit : misfits) {
    if (misfit.verdict != Verdict::misfit) continue;
    const int far = misfit.rule == "object-format"                                                         ? 4
                    : misfit.rule == "architecture"                                                        ? 3
                    : misfit.rule == "float-abi" || misfit.rule == "cpu-level" || misfit.rule == "linkage" ? 2
                                                                                                           : 1;
    farthest = std::max(farthest, far);
  }
  return farthest;
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
  for (const auto& [name, alternative] : variant.choices)
    text += fmt::format(", {} = {} {}", name, alternative,
                        use.choices.contains(name) ? "as chosen" : "unless the project chooses");
  if (variant.configuration == lane.configuration) text += fmt::format(", {} like the lane", lane.configuration);
  return text;
}

/// A project that picks what is not there.
std::optional<Misfit> wrong_pick(const Card& card, const LibraryUse& use, const Project& project) {
  if (card.comes_as_source()) return std::nullopt;  // told where its sources are planned
  auto wrong = wrong_picks(card, use, project);
  if (wrong.empty()) return std::nullopt;
  return Misfit{.rule = "choice",
                .subject = card.name,
                .library = card.name,
                .evidence = std::move(wrong.front().evidence),
                .remedy = std::move(wrong.front().remedy)};
}

struct Assessment {
  const Variant* variant;
  std::vector<Misfit> misfits;  ///< cautions and misfits
  std::vector<Misfit> notes;
};

bool serves(const Assessment& assessment) {
  return worst(assessment.misfits) != Verdict::misfit;
}

/// A file that was there when the library was taken.
std::optional<Misfit> gone(const Card& card, const Variant& variant, FileAnswers& files) {
  for (const auto& file : variant.link) {
    const fs::path path = card.root / file;
    if (files.is_there(path)) continue;
    return Misfit{.rule = "staleness",
                  .subject = path.string(),
                  .library = card.name,
                  .evidence = {fmt::format("{} is gone", path.string()),
                               fmt::format("it was there when {} {} was taken", card.name, card.version)},
                  .remedy = card.in_place ? fmt::format("install it again, or take {} from where it is now", card.name)
                                          : fmt::format("take {} again with --replace", card.name)};
  }
  return std::nullopt;
}

Assessment assessment_of(const Card& card, const Variant& variant, const Choice& choice, const Chooser& chooser) {
  Assessment assessment{&variant, {}, {}};
  for (auto& said : match(pairing_of(card, variant, choice, chooser)))
    (objects(said) ? assessment.misfits : assessment.notes).push_back(std::move(said));
  if (auto missing = serves(assessment) ? gone(card, variant, chooser.cards.files()) : std::nullopt)
    assessment.misfits.push_back(std::move(*missing));
  return assessment;
}

/// The variants of a card, those that serve best first; those that do not serve after them, nearest first. Where a
/// variant for the lane's own target serves, those for others are not looked at.
std::vector<Assessment> assess(const Card& card, const Choice& choice, const Chooser& chooser,
                               bool all_variants = false) {
  std::vector<Assessment> all;
  const auto assess_those = [&](bool for_lane) {
    for (const auto& variant : card.variants) {
      if ((variant.target == chooser.toolchain.target) == for_lane && is_picked(variant, choice.use))
        all.push_back(assessment_of(card, variant, choice, chooser));
    }
  };
  assess_those(true);
  if (all_variants || std::none_of(all.begin(), all.end(), serves)) assess_those(false);
  // A misfit of the target is further away than one of the run-time, however many there are of those: rules that
  // follow are not asked then, so their place in the tables counts before their number.
  std::stable_sort(all.begin(), all.end(), [&](const Assessment& a, const Assessment& b) {
    const auto key = [&](const Assessment& x) {
      const bool other_machine = x.variant->target.arch != chooser.toolchain.target.arch;
      return std::tuple(worst(x.misfits), distance(x.misfits), other_machine, x.misfits.size(),
                        rank(*x.variant, chooser.lane, card.in_place));
    };
    return key(a) < key(b);
  });
  return all;
}

void refuse(const Card& card, const std::vector<Assessment>& assessed, const Chooser& chooser, Choice& choice) {
  const Pairing nearest = pairing_of(card, *assessed.front().variant, choice, chooser);
  choice.chosen.wanted = wanted_build(nearest);
  for (const auto& each : assessed) {
    const auto worst_first = std::max_element(each.misfits.begin(), each.misfits.end(),
                                              [](const Misfit& a, const Misfit& b) { return a.verdict < b.verdict; });
    if (worst_first != each.misfits.end())
      choice.chosen.refused.push_back({card.version, each.variant->id, *worst_first});
  }
}

}  // namespace

Pairing pairing_of(const Card& card, const Variant& variant, const Choice& choice, const Chooser& chooser) {
  return {card,
          variant,
          choice.use,
          chooser.toolchain,
          chooser.lane,
          choice.purpose.into_program,
          choice.purpose.into_shared,
          choice.purpose.definitions,
          chooser.project.check_licences()};
}

namespace {

/// What came built is used before anything is built.
bool has_serving_variant(const Card& card, const Chooser& chooser, const Choice& choice) {
  return !card.variants.empty() && serves(assess(card, choice, chooser).front());
}

}  // namespace

bool take_variant(const Card& card, const Chooser& chooser, Choice& choice) {
  choice.chosen.version = card.version;
  choice.chosen.licence = card.licence;
  choice.chosen.origin = card.origin.path;
  choice.chosen.digest = card.digest;
  choice.chosen.entry = card.entry;
  if (card.comes_as_source() && !has_serving_variant(card, chooser, choice)) {
    choice.card = &card;
    choice.chosen.why = "comes as source";
    return true;
  }
  if (card.headers_only()) {
    choice.card = &card;
    choice.chosen.why = "headers only: nothing to link";
    return true;
  }
  // What was compiled of a list of sources was compiled as the project picks.
  const bool by_list = choice.source && choice.source->steps.empty();
  auto wrong = by_list ? std::nullopt : wrong_pick(card, choice.use, chooser.project);
  if (wrong) {
    choice.chosen.verdict = Verdict::misfit;
    choice.chosen.misfits = {std::move(*wrong)};
    return false;
  }
  const auto assessed = assess(card, choice, chooser);
  const Assessment& best = assessed.front();
  choice.chosen.misfits = best.misfits;
  choice.chosen.notes = best.notes;
  choice.chosen.verdict = worst(best.misfits);
  if (choice.chosen.verdict == Verdict::misfit) {
    refuse(card, assessed, chooser, choice);
    return false;
  }
  choice.card = &card;
  choice.variant = best.variant;
  choice.chosen.variant = best.variant->id;
  choice.chosen.linkage = best.variant->linkage;
  choice.chosen.files = best.variant->link;
  choice.chosen.files.insert(choice.chosen.files.end(), best.variant->runtime.begin(), best.variant->runtime.end());
  choice.chosen.why = reason(*best.variant, card, choice.use, chooser.lane,
                             static_cast<size_t>(std::count_if(assessed.begin(), assessed.end(), serves)));
  return true;
}

namespace {

/// What the project and others ask of a version.
class Bounds {
 public:
  static Result<Bounds> of(const LibraryUse& use, const Narrowing& narrowing) {
    Bounds bounds;
    bounds.ruled_out_ = narrowing.ruled_out;
    std::vector<std::string> texts = narrowing.ranges;
    texts.insert(texts.begin(), use.version);
    for (const auto& text : texts) {
      auto range = VersionRange::parse(text);
      if (!range) return pass(range);
      bounds.ranges_.push_back(std::move(*range));
    }
    return bounds;
  }

  bool contain(const std::string& version) const {
    return !ruled_out_.contains(version) && std::all_of(ranges_.begin(), ranges_.end(), [&](const VersionRange& range) {
      return range.contains(version);
    });
  }

 private:
  std::vector<VersionRange> ranges_;
  std::set<std::string> ruled_out_;
};

/// The cards in the range, newest first; what an earlier fit chose comes before them.
std::vector<const Card*> in_order(const std::vector<Card>& cards, const Bounds& bounds, const Locked* locked,
                                  std::vector<std::string>& outside) {
  std::vector<const Card*> ordered;
  for (const auto& card : cards) {
    if (!bounds.contain(card.version)) {
      outside.push_back(card.version);
    } else if (locked != nullptr && card.version == locked->version && card.digest == locked->digest) {
      ordered.insert(ordered.begin(), &card);
    } else {
      ordered.push_back(&card);
    }
  }
  return ordered;
}

/// What the lock file names is not here any more, or other files are here under its version.
std::optional<Misfit> lock_broken(const std::vector<Card>& cards, const Bounds& bounds, const Locked* locked,
                                  const Chooser& chooser) {
  if (locked == nullptr || !bounds.contain(locked->version)) return std::nullopt;
  // What lies in the project's own tree changes with it.
  const auto is_own = [&](const Card& card) { return card.lies_open && is_inside(chooser.project.root(), card.entry); };
  if (std::any_of(cards.begin(), cards.end(), is_own)) return std::nullopt;
  std::string instead = "the shelf has no " + locked->version;
  for (const auto& card : cards) {
    if (card.version != locked->version) continue;
    if (card.digest == locked->digest) return std::nullopt;
    instead = fmt::format("{} has other files under that version, {}", card.entry.string(), card.digest);
  }
  return Misfit{
      .rule = "locked",
      .verdict = Verdict::caution,
      .subject = locked->library,
      .library = locked->library,
      .evidence = {fmt::format("fibula.lock has {} {} for lane {}, {}", locked->library, locked->version,
                               chooser.lane.name, locked->digest),
                   instead},
      .remedy = fmt::format("take that version from where it came, or choose anew: fibula attach {}", locked->library)};
}

}  // namespace

Result<Choice> choose(const LibraryUse& use, const Purpose& purpose, const Chooser& chooser,
                      const Narrowing& narrowing) {
  Choice choice{.use = use, .purpose = purpose, .chosen = {.name = use.name}};
  auto cards = chooser.cards.candidates(use);
  if (!cards) return pass(cards);
  auto bounds = Bounds::of(use, narrowing);
  if (!bounds) return pass(bounds);
  const Locked* locked = chooser.lock == nullptr ? nullptr : chooser.lock->find(chooser.lane.name, use.name);
  std::vector<std::string> outside;
  std::optional<ChosenLibrary> newest_refusal;
  for (const Card* card : in_order(**cards, *bounds, locked, outside)) {
    if (auto here = chooser.cards.shelf().bring(*card); !here) return pass(here);
    if (take_variant(*card, chooser, choice)) {
      choice.chosen.refused.clear();
      choice.chosen.wanted.clear();
      if (auto broken = lock_broken(**cards, *bounds, locked, chooser)) {
        choice.chosen.misfits.push_back(std::move(*broken));
        choice.chosen.verdict = worst(choice.chosen.misfits);
      }
      return choice;
    }
    if (!newest_refusal) newest_refusal = choice.chosen;
    newest_refusal->refused = choice.chosen.refused;
  }
  if (newest_refusal) {
    choice.chosen = *newest_refusal;
    return choice;
  }
  choice.chosen.misfits = {not_there(use, chooser.cards.shelf(), chooser.project, outside)};
  choice.chosen.verdict = Verdict::misfit;
  return choice;
}

std::vector<std::string> variants_used(const Project& project, const Card& card) {
  std::vector<Question> questions;
  for (const auto& lane : project.lanes()) questions.push_back({lane.compiler, lane.flags});
  const auto toolchains = ask_all(questions);
  LibraryUse use{.name = card.name};
  for (const auto& known : project.libraries()) {
    if (known.name == card.name) use = known;
  }
  std::vector<std::string> used;
  for (size_t i = 0; i < toolchains.size(); ++i) {
    if (!toolchains[i]) continue;
    const Lane& lane = project.lanes()[i];
    const auto overridden = lane.overrides.find(card.name);
    const auto judged =
        judge(card, lane, *toolchains[i], overridden == lane.overrides.end() ? use : overridden->second);
    if (!judged.empty() && judged.front().verdict != Verdict::misfit) used.push_back(judged.front().variant->id);
  }
  return used;
}

std::vector<JudgedVariant> judge(const Card& card, const Lane& lane, const Toolchain& toolchain,
                                 const LibraryUse& use) {
  const Project none;
  const Shelf nowhere = Shelf::at({});
  CardStore cards(nowhere);
  Choice choice{
      .use = use, .purpose = {.into_program = true, .definitions = lane.definitions}, .chosen = {.name = card.name}};
  std::vector<JudgedVariant> judged;
  for (auto& one : assess(card, choice, {none, lane, toolchain, cards}, true)) {
    const Verdict verdict = worst(one.misfits);
    judged.push_back({one.variant, verdict, std::move(one.misfits), std::move(one.notes)});
  }
  return judged;
}

}  // namespace fibula
