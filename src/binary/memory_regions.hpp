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
  bool known = true;    ///< false: origin or length could not be calculated, and are 0
};

/// The regions of a script, in its order. Numbers, sums and products of them, other regions' ORIGIN and LENGTH, and
/// symbols that the script sets before are calculated; what the command line or an included script sets is not known.
std::vector<MemoryRegion> memory_regions(std::string_view script);

}  // namespace fibula
