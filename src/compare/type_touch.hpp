#pragma once

#include "binary/debug_types.hpp"

namespace fibula {

/// How a program is touched by another type in the same place.
enum class Touch {
  same,     ///< the same bytes with the same meaning
  meaning,  ///< the same bytes, and perhaps another meaning
  bytes,    ///< other bytes
};

/// What a program that was compiled with the one meets when it passes or keeps it where the other is now.
Touch touch(const TypeText& before, const TypeText& after);

}  // namespace fibula
