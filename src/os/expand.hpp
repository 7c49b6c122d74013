/// Expands compressed bytes, by libraries that are loaded when this is first asked for.
#pragma once

#include "base/bytes.hpp"

#include <string>

namespace fibula {

enum class Compression { zlib, zstd };

/// The `size` bytes that these hold. Errors: malformed (they hold another number), missing_tool.
Result<std::string> expand(Bytes compressed, uint64_t size, Compression how);

}  // namespace fibula
