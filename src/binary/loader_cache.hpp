/// `/etc/ld.so.cache`: what ldconfig found in the loader's directories, by soname.
///
/// The layout is glibc's (sysdeps/generic/dl-cache.h). A file of the old layout may stand in front; the new one begins
/// with `glibc-ld.so.cache1.1`, a count, the size of the strings, a byte that says the byte order, and an offset of
/// extensions, 48 bytes in all. Entries of 24 bytes follow: flags, name, path, a system version, and a 64-bit word of
/// processor features. Names and paths are offsets from the beginning of the new layout. ldconfig sorts names; nothing
/// here relies on that.
#pragma once

#include "base/bytes.hpp"

#include <string_view>
#include <vector>

namespace fibula {

struct LoaderCacheEntry {
  std::string_view name;
  std::string_view path;
  bool for_some_processors = false;  ///< in a glibc-hwcaps directory: taken where the processor is able to
};

bool is_loader_cache(Bytes bytes);
/// Errors: truncated, malformed (no cache in the new layout, an entry that points outside of it).
Result<std::vector<LoaderCacheEntry>> read_loader_cache(Bytes bytes);

}  // namespace fibula
