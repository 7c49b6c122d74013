/// One include directory for a library and its add-ons, where their headers expect to lie side by side.
#pragma once

#include <fibula/card.hpp>
#include <fibula/fit.hpp>

namespace fibula {

/// The public headers of these cards, under the names by which they are included; of two with one name the first
/// card's counts.
std::map<std::string, std::filesystem::path> headers_side_by_side(const std::vector<const Card*>& cards);

/// Brings the folder to these headers. What is there and right stays. Errors: io.
Result<void> write_shared_headers(const SharedHeaders& shared);

}  // namespace fibula
