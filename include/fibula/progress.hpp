/// What a long call is doing, for whoever wants to show it.
#pragma once

#include <cstdint>
#include <functional>
#include <string_view>

namespace fibula {

struct Progress {
  std::string_view doing;  ///< "downloading", "unpacking", "reading"
  uint64_t done = 0;       ///< bytes
  uint64_t total = 0;      ///< bytes; 0 where nobody knows
};

/// Called now and then from the thread that made the call; may be empty.
using ProgressSink = std::function<void(const Progress&)>;

}  // namespace fibula
