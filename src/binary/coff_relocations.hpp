#pragma once

#include "binary/coff_file.hpp"

#include <optional>
#include <string>

namespace fibula::coff {

/// Where a relocation refers to a symbol, in a section that is not dropped (by number, counted from 1): "section .text
/// at 0x1c"; nothing when none does (PE Format specification, "COFF Relocations"). Errors: truncated.
Result<std::optional<std::string>> reference_to(const File& file, uint32_t symbol_index,
                                                const std::vector<bool>& dropped);

}  // namespace fibula::coff
