/// How full a device's memory is with a program.
#pragma once

#include <fibula/result.hpp>

#include <cstdint>
#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace fibula {

/// A region of a linker script's MEMORY, and the bytes of it that a program takes.
struct MemoryUse {
  std::string region;
  uint64_t used = 0;
  uint64_t length = 0;
};

/// Where a function, an object or a section of a program lies, beside the region in which it must.
struct Placement {
  std::string name;    ///< of a symbol, or of a section: ".shared"
  std::string wanted;  ///< the region that was asked for
  uint64_t address = 0;
  std::string section = {};
  std::string region = {};  ///< in which it lies; empty: in none of the script's
  bool found = false;       ///< the program has it
  bool judged = true;       ///< false: the script does not say where all regions lie, and `region` may lack a name
};

/// Looks these names up in an ELF program, and their addresses in the regions of a linker script. `wanted`: the region
/// of each name. Errors: absent, unreadable, those of `visit_symbols`.
FIBULA_API Result<std::vector<Placement>> placements_in(const std::filesystem::path& program,
                                                        const std::filesystem::path& script,
                                                        const std::map<std::string, std::string>& wanted);

/// What an ELF program takes of the regions of a linker script, in the script's order: what is loaded lies at its load
/// address, and at the address where it runs when that is another (gABI chapter 5, "Program Header"). Regions whose
/// origin or length the script leaves to others are left out. Errors: absent, unreadable, those of `inspect`.
FIBULA_API Result<std::vector<MemoryUse>> memory_use(const std::filesystem::path& program,
                                                     const std::filesystem::path& script);

}  // namespace fibula
