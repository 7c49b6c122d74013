/// Which version and variant of each library serves a lane.
#pragma once

#include "choose/card_store.hpp"
#include "choose/lock.hpp"
#include "match/match.hpp"

#include <fibula/chosen_library.hpp>

#include <map>
#include <memory>
#include <optional>
#include <set>

namespace fibula {

/// What the outputs that use a library ask of it.
struct Purpose {
  bool into_program = false;
  bool into_shared = false;
  std::vector<std::string> definitions;  ///< of the project, in this lane
};

struct SourcePlan;

/// What was chosen for one library, and what it is made of.
struct Choice {
  LibraryUse use;
  Purpose purpose;
  ChosenLibrary chosen;
  const Card* card = nullptr;                     ///< in the CardStore; none: not on the shelf
  const Variant* variant = nullptr;               ///< of the card; none: headers only, or nothing fits
  std::shared_ptr<const SourcePlan> source = {};  ///< how it is built; none: it came built
  std::shared_ptr<const Variant> promised = {};   ///< stands in for the variant that is not built yet

  /// It comes as source and is not built yet: what it defines is not known.
  bool is_pending() const { return promised != nullptr; }
};

/// What chooses: the lane with its compiler's answers.
struct Chooser {
  const Project& project;
  const Lane& lane;
  const Toolchain& toolchain;
  CardStore& cards;
  const Lock* lock = nullptr;  ///< what an earlier fit chose; none: choose anew
};

/// A variant beside the lane and what the library goes into.
Pairing pairing_of(const Card& card, const Variant& variant, const Choice& choice, const Chooser& chooser);

/// Takes the best variant of a card; false when none serves, with the nearest one's misfits.
bool take_variant(const Card& card, const Chooser& chooser, Choice& choice);

/// What others ask of a library's version, beside the project.
struct Narrowing {
  std::vector<std::string> ranges = {};
  std::set<std::string> ruled_out = {};  ///< versions
};

/// Errors: a damaged card. A library that is not there or does not fit is a misfit of the choice.
Result<Choice> choose(const LibraryUse& use, const Purpose& purpose, const Chooser& chooser,
                      const Narrowing& narrowing = {});

}  // namespace fibula
