/// Which version and variant of each library serves a lane.
#pragma once

#include "match/match.hpp"

#include <optional>

namespace fibula {

/// What was chosen for one library, and what it is made of.
struct Choice {
  LibraryUse use;
  ChosenLibrary chosen;
  std::optional<Card> card;        ///< none: not on the shelf
  std::optional<Variant> variant;  ///< none: headers only, or nothing fits
};

/// What chooses: the lane with its compiler's answers, and what the library goes into.
struct Chooser {
  const Project& project;
  const Lane& lane;
  const Toolchain& toolchain;
  const Shelf& shelf;
};

/// A variant beside the lane and what the library goes into.
Pairing pairing_of(const Card& card, const Variant& variant, const LibraryUse& use, const Chooser& chooser);

/// Errors: a damaged card. A library that is not there or does not fit is a misfit of the choice.
Result<Choice> choose(const LibraryUse& use, const Chooser& chooser);

}  // namespace fibula
