// Whatever debugging records hold: reading them ends, and what is said of a layout is in order.
#include "binary/debug_types.hpp"

#include <span>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const auto types = fibula::debug_types_of(fibula::Bytes(std::as_bytes(std::span(data, size))));
  if (!types) return 0;
  for (const auto& [name, layout] : types->layouts) {
    if (name.empty() || !fibula::same_layout(layout, layout)) __builtin_trap();
  }
  return 0;
}
