#include "os/stamp.hpp"

#include <fmt/format.h>

namespace fibula {

std::string to_text(const Stamp& stamp) {
  return fmt::format("{:d}{:d}:{:x}:{:x}:{:x}:{:x}:{:x}", static_cast<int>(stamp.kind), stamp.executable, stamp.device,
                     stamp.number, stamp.size, stamp.time, stamp.changed);
}

}  // namespace fibula
