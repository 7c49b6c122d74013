/// What a link still needs from the system: which library files define the names that are left over, and which of
/// several is the right one.
#pragma once

#include "index/provider_index.hpp"
#include "link/rehearsal.hpp"

#include <map>
#include <set>

namespace fibula {

/// A library of the system that is to be added, and why it and no other.
struct Supply {
  std::filesystem::path path;
  std::vector<std::string> arguments;  ///< how the linker is told
  std::string why;
};

/// Several libraries define what is missing, and nothing tells which is meant.
struct Ambiguity {
  std::vector<Unresolved> missing;
  std::vector<std::filesystem::path> choices;
  std::filesystem::path card = {};  ///< of the library that needs it; empty: it has none
};

struct Supplies {
  std::vector<Supply> supplies;
  std::vector<Ambiguity> ambiguities;
};

/// What is known of a library whose names are left over.
struct NeedyLibrary {
  std::filesystem::path card = {};              ///< its card.toml
  std::vector<std::string> system_inputs = {};  ///< that the card names
  std::set<std::string> run_time_needs = {};    ///< what its shared form asks the loader for
  std::set<std::string> noted = {};             ///< what its own build noted beside it that it needs
};

struct SupplyQuestion {
  const Toolchain& toolchain;
  const ProviderIndices& index;
  const Rehearsal& rehearsal;
  /// What is on the line already; these supply nothing more.
  const std::vector<std::filesystem::path>& present;
  /// The files of the program itself: for them only what belongs to the language and its C library is added.
  const std::set<std::filesystem::path>& own;
  std::map<std::filesystem::path, NeedyLibrary>& needy;  ///< by link file; asked for and kept here
};

/// Finds, for all that a rehearsal left over, what is to be added next: to be rehearsed again, since what is added
/// needs things too. The choice among several libraries is, in this order: what a card names; what belongs to the
/// compiler and the C library; what the needy library's shared form needs; what is loaded anyway; what has the same
/// origin; what defines more of the missing names.
Supplies find_supplies(FileStore& files, const SupplyQuestion& question);

}  // namespace fibula
