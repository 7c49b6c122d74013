/// A copy with nothing in it but what serves.
#pragma once

#include "take/source.hpp"

namespace fibula {

/// Leaves headers, these variants, data and licences in card and list; what is left out is told in the remarks. Errors:
/// refused (none of the variants is wanted).
Result<void> trim(Card& card, Source& source, const std::vector<std::string>& wanted, std::vector<std::string>& files);

}  // namespace fibula
