/// One include directory for a library and its add-ons, where their headers expect to lie side by side.
#pragma once

#include <fibula/card.hpp>
#include <fibula/fit.hpp>

namespace fibula {

/// The public headers of these cards, under the names by which they are included; of two with one name the first
/// card's counts.
std::map<std::string, std::filesystem::path> headers_side_by_side(const std::vector<const Card*>& cards);

/// Brings the folder, which lies below `root`, to these headers: copies, listed beside it. What is there and right
/// stays, and so does what somebody else put there. Errors: io, refused (a link is on the way), those of reading a
/// header.
Result<void> write_shared_headers(const SharedHeaders& shared, const std::filesystem::path& root);

}  // namespace fibula
