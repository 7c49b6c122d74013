/// The libraries of a lane together: those that the project attaches, and those that they require, each in one version
/// that serves everybody who asks for it.
#pragma once

#include "choose/selection.hpp"

#include <map>

namespace fibula {

/// A library that the project attaches, or another requires, with what the outputs ask of it.
struct Wanted {
  LibraryUse use;
  Purpose purpose;
  std::string required_by = {};
};

struct LibrarySet {
  std::map<std::string, Choice> choices;
  /// What each library requires and is there, by name: to be linked wherever it is.
  std::map<std::string, std::vector<std::string>> requires_;
};

/// Chooses by asking for the newest first. A version whose own requirement cannot be met together with what the others
/// ask is passed over for an older one; when none is left, the library that they quarrel about is a misfit that tells
/// who asks for what. What is required and nowhere on the shelf is left to the rule `library`. Errors: a damaged card.
Result<LibrarySet> choose_set(const std::vector<Wanted>& wanted, const Chooser& chooser);

}  // namespace fibula
