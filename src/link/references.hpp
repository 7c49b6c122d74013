#pragma once

#include "link/symbol_table.hpp"

#include <optional>

namespace fibula {

/// Where an object that is in a link refers to a symbol, in a section that is kept; nothing when no relocation does:
/// linkers do not miss such a symbol. Formats whose relocations are not read are taken to refer to every symbol that
/// they name. Errors: those of a damaged object.
Result<std::optional<std::string>> place_of_reference(const EnteredObject& entered, uint32_t symbol);

}  // namespace fibula
