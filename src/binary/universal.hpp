/// Universal files of macOS (mach-o/fat.h): the same library for several architectures, one file behind the other. All
/// numbers of the table in front are big-endian; the second form has 64-bit offsets.
#pragma once

#include "base/bytes.hpp"

#include <fibula/target.hpp>

#include <vector>

namespace fibula {

struct Slice {
  Target target;
  Bytes bytes;
};

bool is_universal(Bytes bytes);
/// Errors: truncated, malformed.
Result<std::vector<Slice>> read_universal(Bytes bytes);

}  // namespace fibula
