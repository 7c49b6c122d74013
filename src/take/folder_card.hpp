/// A library in a folder that a project names: with its card, or understood as it lies there.
#pragma once

#include <fibula/card.hpp>

namespace fibula {

/// A folder with `card.toml` and `files/`, as a shelf's entry; with `card.toml` alone, which describes what lies beside
/// it; or without one, under this name. Errors: absent, those of a card, or of `describe`.
Result<Card> card_of_folder(const std::filesystem::path& folder, const std::string& name);

}  // namespace fibula
