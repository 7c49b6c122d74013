/// One include directory for a library and its add-ons, where their headers expect to lie side by side.
#pragma once

#include <fibula/shelf.hpp>

namespace fibula {

/// Fills a folder with the public headers of these cards, under the names by which they are included; of two with one
/// name the first card's counts. What is there and right stays. Errors: io.
Result<void> gather_headers(const std::filesystem::path& folder, const std::vector<const Card*>& cards);

}  // namespace fibula
