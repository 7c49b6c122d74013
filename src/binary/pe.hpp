/// PE images: programs and DLLs of Windows (PE Format specification).
///
/// A stub program for an older system comes first; its word at 0x3c says where the real header is. What a loader reads
/// is found through a table of directories in the optional header, as addresses relative to the image's base.
#pragma once

#include "base/bytes.hpp"
#include "binary/image.hpp"

namespace fibula::pe {

bool recognises(Bytes bytes);
/// Errors: truncated, malformed.
Result<Image> read(Bytes bytes, unsigned want);
Result<void> walk(Bytes bytes, const SymbolSink& sink);

}  // namespace fibula::pe
