/// How full a device's memory is with a program.
#pragma once

#include <fibula/result.hpp>

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

/// A region of a linker script's MEMORY, and the bytes of it that a program takes.
struct MemoryUse {
  std::string region;
  uint64_t used = 0;
  uint64_t length = 0;
};

/// What an ELF program takes of the regions of a linker script, in the script's order: what is loaded lies at its load
/// address, and at the address where it runs when that is another (gABI chapter 5, "Program Header"). Regions whose
/// origin or length is calculated are left out. Errors: absent, unreadable, those of `inspect`.
FIBULA_API Result<std::vector<MemoryUse>> memory_use(const std::filesystem::path& program,
                                                     const std::filesystem::path& script);

}  // namespace fibula
