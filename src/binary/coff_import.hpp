/// Short import members (PE Format specification, "Import Library Format"): 20 bytes and two or three names, that stand
/// for a symbol of a DLL in an import library.
#pragma once

#include "base/bytes.hpp"
#include "binary/image.hpp"

namespace fibula::coff {

bool is_import_member(Bytes bytes);
/// Errors: truncated, malformed.
Result<Image> read_import_member(Bytes bytes);

}  // namespace fibula::coff
