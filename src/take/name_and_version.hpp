/// What a library that is taken is called, and which version it is.
#pragma once

#include "take/arrival.hpp"
#include "take/source.hpp"

#include <fibula/take.hpp>

namespace fibula {

/// What was asked for, or what the source is called.
std::string guessed_name(const Source& source, const TakeRequest& request);

/// Gives the card its name and version; what is doubtful of them is remarked on. Errors: refused (one of them is not
/// told, or cannot be one).
Result<void> name_it(Source& source, const Arrival& arrival, const TakeRequest& request, Card& card);

}  // namespace fibula
