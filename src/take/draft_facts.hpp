/// What a variant learns from its files while it is put together.
#pragma once

#include "take/drafts.hpp"

namespace fibula {

/// Whether nothing in a file's facts keeps it out of a draft.
bool agrees(const Draft& draft, const std::vector<FactRow>& rows);

/// Puts a library into a draft, with its facts.
void add_unit(const Unit& unit, Draft& draft);

}  // namespace fibula
