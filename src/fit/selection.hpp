/// Which version and variant of each library serves a lane.
#pragma once

#include "match/match.hpp"

#include <map>
#include <optional>

namespace fibula {

/// What the outputs that use a library ask of it.
struct Purpose {
  bool into_program = false;
  bool into_shared = false;
  std::vector<std::string> definitions;  ///< of the project, in this lane
};

/// What was chosen for one library, and what it is made of.
struct Choice {
  LibraryUse use;
  Purpose purpose;
  ChosenLibrary chosen;
  const Card* card = nullptr;        ///< in the CardStore; none: not on the shelf
  const Variant* variant = nullptr;  ///< of the card; none: headers only, or nothing fits
};

/// The cards of a shelf, each read once however many lanes ask for it.
class CardStore {
 public:
  explicit CardStore(const Shelf& shelf) : shelf_(shelf) {}
  const Shelf& shelf() const { return shelf_; }
  /// Reads the cards of these libraries side by side; those that cannot be read are told when somebody asks for them.
  void read_ahead(const std::vector<LibraryUse>& uses);
  /// The versions that may serve, newest first: from the project's own folder, or the shelf. Errors: a damaged card.
  Result<const std::vector<Card>*> candidates(const LibraryUse& use);

 private:
  const Shelf& shelf_;
  std::map<std::string, std::vector<Card>> cards_;
};

/// What chooses: the lane with its compiler's answers.
struct Chooser {
  const Project& project;
  const Lane& lane;
  const Toolchain& toolchain;
  CardStore& cards;
};

/// A variant beside the lane and what the library goes into.
Pairing pairing_of(const Card& card, const Variant& variant, const Choice& choice, const Chooser& chooser);

/// Errors: a damaged card. A library that is not there or does not fit is a misfit of the choice.
Result<Choice> choose(const LibraryUse& use, const Purpose& purpose, const Chooser& chooser);

}  // namespace fibula
