#include "choose/library_set.hpp"

#include "base/text.hpp"
#include "base/version.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// One card's wish for another library.
struct Ask {
  std::string by, by_version;  ///< the library that asks
  std::string range;
};

class SetChooser {
 public:
  SetChooser(const std::vector<Wanted>& wanted, const Chooser& chooser) : wanted_(wanted), chooser_(chooser) {}

  /// What is chosen decides what is asked for, which decides what is chosen: again until nothing changes. Each round
  /// that does not settle it rules out one version for good, so there is an end.
  Result<LibrarySet> run() {
    while (true) {
      auto settled = settle();
      if (!settled) return pass(settled);
      if (*settled) return std::move(set_);
    }
  }

 private:
  Result<bool> settle() {
    set_ = {};
    asks_.clear();
    std::vector<Wanted> open = wanted_;
    for (size_t i = 0; i < open.size(); ++i) {
      const Wanted wanted = open[i];
      auto choice = choose(wanted.use, wanted.purpose, chooser_, narrowing_for(wanted.use.name));
      if (!choice) return pass(choice);
      choice->chosen.required_by = wanted.required_by;
      const Card* card = choice->card;
      set_.choices.insert_or_assign(wanted.use.name, std::move(*choice));
      if (card == nullptr) continue;
      for (const auto& requirement : card->requirements) {
        if (auto added = add(*card, requirement, wanted, open); !added) return pass(added);
      }
    }
    for (const auto& [library, asks] : asks_) {
      auto met = meet(library, asks);
      if (!met || !*met) return met;
    }
    return true;
  }

  /// Notes what a card asks for; what the project does not attach joins the set when the shelf has it.
  Result<void> add(const Card& card, const Requirement& requirement, const Wanted& user, std::vector<Wanted>& open) {
    const std::string& name = requirement.library;
    asks_[name].push_back({card.name, card.version, requirement.version});
    const bool known =
        std::any_of(open.begin(), open.end(), [&](const Wanted& wanted) { return wanted.use.name == name; });
    const LibraryUse use{.name = name, .line = user.use.line};
    const auto cards = chooser_.cards.candidates(use);
    if (!cards) return fail(cards.error());
    if (!known && (*cards)->empty()) return {};
    set_.requires_[card.name].push_back(name);
    if (!known) open.push_back({use, user.purpose, card.name});
    return {};
  }

  Narrowing narrowing_for(const std::string& name) const {
    Narrowing narrowing;
    if (const auto ranges = ranges_.find(name); ranges != ranges_.end()) narrowing.ranges = ranges->second;
    if (const auto ruled = ruled_out_.find(name); ruled != ruled_out_.end()) narrowing.ruled_out = ruled->second;
    return narrowing;
  }

  /// Whether what was chosen is in the range of everybody who asks; if not, what the next round is to do otherwise.
  Result<bool> meet(const std::string& library, const std::vector<Ask>& asks) {
    const auto found = set_.choices.find(library);
    if (found == set_.choices.end()) return true;
    std::set<std::string> wanted;
    for (const auto& ask : asks) wanted.insert(ask.range);
    wanted.erase("");
    // Asks of versions that were given up since do not bind any more.
    if (ranges_[library] != std::vector<std::string>(wanted.begin(), wanted.end())) {
      ranges_[library].assign(wanted.begin(), wanted.end());
      return false;
    }
    if (found->second.card != nullptr || wanted.empty()) return true;
    if (give_up_one(asks)) return false;
    found->second.chosen.misfits = {conflict(library, asks, found->second.use)};
    found->second.chosen.verdict = Verdict::misfit;
    return true;
  }

  /// Rules out the version of one that asks, the last that has an older one to offer.
  bool give_up_one(const std::vector<Ask>& asks) {
    for (auto ask = asks.rbegin(); ask != asks.rend(); ++ask) {
      if (ask->range.empty() || !has_other(*ask)) continue;
      ruled_out_[ask->by].insert(ask->by_version);
      ranges_.clear();
      return true;
    }
    return false;
  }

  bool has_other(const Ask& ask) {
    const Choice& choice = set_.choices.at(ask.by);
    const auto cards = chooser_.cards.candidates(choice.use);
    const auto range = VersionRange::parse(choice.use.version);
    if (!cards || !range) return false;
    const auto& ruled = ruled_out_[ask.by];
    return std::any_of((*cards)->begin(), (*cards)->end(), [&](const Card& card) {
      return card.version != ask.by_version && range->contains(card.version) && !ruled.contains(card.version);
    });
  }

  /// Who asks for a library, back to the project: "bell 1.0 requires tidecalc <2, foghorn 2.0 requires bell, …".
  Misfit conflict(const std::string& library, const std::vector<Ask>& asks, const LibraryUse& use) {
    Misfit misfit{.rule = "library", .subject = library, .library = library};
    if (!use.version.empty())
      misfit.evidence.push_back(
          fmt::format("{}:{} attaches {} {}", chooser_.project.file().string(), use.line, library, use.version));
    for (const auto& ask : asks) {
      if (ask.range.empty()) continue;
      misfit.evidence.push_back(fmt::format("{} {} requires {} {}{}", ask.by, ask.by_version, library, ask.range,
                                            chain_to(ask.by, {library})));
    }
    std::vector<std::string> there;
    if (const auto cards = chooser_.cards.candidates(use)) {
      for (const auto& card : **cards) there.push_back(card.version);
    }
    misfit.evidence.push_back(
        fmt::format("shelf {} has {}, and none serves all", chooser_.cards.shelf().shown(), text::join(there, ", ")));
    misfit.remedy = fmt::format("take a version of {} that serves all, or other versions of those that ask", library);
    return misfit;
  }

  std::string chain_to(const std::string& library, std::set<std::string> seen) const {
    const auto attached =
        std::find_if(wanted_.begin(), wanted_.end(), [&](const Wanted& w) { return w.use.name == library; });
    if (attached != wanted_.end())
      return fmt::format(", and {}:{} attaches {}", chooser_.project.file().filename().string(), attached->use.line,
                         library);
    const auto asks = asks_.find(library);
    if (asks == asks_.end() || !seen.insert(library).second) return {};
    const Ask& first = asks->second.front();
    return fmt::format(", {} {} requires {}", first.by, first.by_version, library) + chain_to(first.by, seen);
  }

  const std::vector<Wanted>& wanted_;
  const Chooser& chooser_;
  LibrarySet set_;
  std::map<std::string, std::vector<Ask>> asks_;            ///< by the library that is asked for
  std::map<std::string, std::vector<std::string>> ranges_;  ///< of the last round
  std::map<std::string, std::set<std::string>> ruled_out_;  ///< versions, by library
};

}  // namespace

Result<LibrarySet> choose_set(const std::vector<Wanted>& wanted, const Chooser& chooser) {
  return SetChooser(wanted, chooser).run();
}

}  // namespace fibula
