/// Handing on a whole entry: card, files and digests.
#pragma once

#include <fibula/card.hpp>
#include <fibula/shelf.hpp>

#include <filesystem>
#include <string>

namespace fibula {

/// To another shelf's folder, whole or not at all, or to the address of one whose server takes files: the files first,
/// the index last and only where nobody changed it meanwhile. False: the same is there already. Errors: refused (other
/// files are there under the same version; it is in place, so its files are not the shelf's; the server does not look
/// at conditions, so that two publishers could lose each other's lines), unreadable (those of the server), io.
Result<bool> publish_entry(const Card& card, const std::string& place);

}  // namespace fibula
