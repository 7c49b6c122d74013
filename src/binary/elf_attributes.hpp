/// Build attributes: what compilers record about the processor and the calling convention of an object (Addenda to the
/// ABI for the Arm Architecture, "Build Attributes"; RISC-V and GNU use the same form).
#pragma once

#include "base/bytes.hpp"

#include <cstdint>
#include <map>
#include <string>

namespace fibula::elf {

/// The attributes of a whole file: tag to value, numbers and texts apart.
struct Attributes {
  std::map<uint64_t, uint64_t> numbers;
  std::map<uint64_t, std::string_view> texts;

  /// A number that was not recorded is 0 (Build Attributes, "default values").
  uint64_t number(uint64_t tag) const;
  std::string_view text(uint64_t tag) const;
};

/// Reads one vendor's subsection. Errors: truncated, malformed.
Result<Attributes> read_attributes(Bytes section, Order order, std::string_view vendor);

}  // namespace fibula::elf
