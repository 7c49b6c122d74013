// What the targets that read texts share.
#pragma once

#include <cstdint>
#include <cstdlib>
#include <string>
#include <string_view>

inline void demand(bool holds) {
  if (!holds) std::abort();
}
