/// What a project picks of a library, held against what there is to pick.
#pragma once

#include <fibula/card.hpp>
#include <fibula/project.hpp>

#include <map>
#include <string>
#include <vector>

namespace fibula {

/// Each choice with its alternatives, in the card's order: of a library's builds, or of its sources.
std::map<std::string, std::vector<std::string>> choices_of(const Card& card);

/// What a choice among sources is where nobody picks; empty for one among builds, of which the first that fits serves.
std::string default_pick(const Card& card, const std::string& name);

/// As a library's `choices = { … }` in `fibula.toml` holds them: `bus = "twi", clock = "own"`.
std::string written_picks(const std::map<std::string, std::string>& picks);

/// Whether nothing that the project picks is against a build.
bool is_picked(const Variant& variant, const LibraryUse& use);

/// One that is not there, and what there is.
struct WrongPick {
  std::vector<std::string> evidence;
  std::string remedy;
};
std::vector<WrongPick> wrong_picks(const Card& card, const LibraryUse& use, const Project& project);

}  // namespace fibula
