/// The memory of a device, as a linker script says it (GNU ld manual, "MEMORY Command").
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

struct MemoryRegion {
  std::string name;
  uint64_t origin = 0;
  uint64_t length = 0;  ///< bytes
};

/// The regions of a script whose origin and length are numbers, with K and M where they stand behind; those that are
/// calculated are left out.
std::vector<MemoryRegion> memory_regions(std::string_view script);

}  // namespace fibula
