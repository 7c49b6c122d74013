#include <fibula/device_memory.hpp>
#include <fibula/symbols.hpp>

#include "binary/elf.hpp"
#include "binary/memory_regions.hpp"
#include "os/files.hpp"
#include "os/mapped_file.hpp"

namespace fibula {

Result<std::vector<MemoryUse>> memory_use(const fs::path& program, const fs::path& script) {
  const auto text = read_text(script);
  if (!text) return fail(text.error());
  const auto mapping = MappedFile::open(program, Access::copy);
  if (!mapping) return fail(mapping.error());
  const auto file = elf::read_loader_tables((*mapping)->bytes());
  if (!file) {
    Error error = file.error();
    error.file = program.string();
    return fail(std::move(error));
  }
  std::vector<MemoryUse> uses;
  for (const auto& region : memory_regions(*text)) {
    if (!region.known) continue;
    MemoryUse use{.region = region.name, .length = region.length};
    const auto is_inside = [&](uint64_t address) {
      return address >= region.origin && address - region.origin < region.length;
    };
    for (const auto& segment : file->segments) {
      if (segment.type != elf::pt_load) continue;
      const bool runs_here = is_inside(segment.address), lies_here = is_inside(segment.load_address);
      if (runs_here) {
        use.used += segment.memory_size;
      } else if (lies_here) {
        use.used += segment.file_size;
      }
    }
    uses.push_back(std::move(use));
  }
  return uses;
}

Result<std::vector<Placement>> placements_in(const fs::path& program, const fs::path& script,
                                             const std::map<std::string, std::string>& wanted) {
  const auto text = read_text(script);
  if (!text) return fail(text.error());
  std::vector<Placement> placements;
  for (const auto& [name, region] : wanted) placements.push_back({.name = name, .wanted = region});
  // A section begins where the first thing in it lies.
  const auto note = [&](const SymbolView& symbol) {
    for (auto& placement : placements) {
      const bool by_section = placement.name == symbol.section;
      if (!symbol.defines || !(placement.name == symbol.name || by_section)) continue;
      if (placement.found && (!by_section || symbol.address >= placement.address)) continue;
      // Of Thumb code the lowest bit of an address says what it is (ELF for the Arm Architecture, 5.5.3).
      placement.address = symbol.address;
      placement.section = symbol.section;
      placement.found = true;
    }
  };
  if (auto visited = visit_symbols(program, note); !visited) return fail(visited.error());
  const auto regions = memory_regions(*text);
  for (auto& placement : placements) {
    for (const auto& region : regions) {
      placement.judged = placement.judged && region.known;
      const bool inside = placement.address >= region.origin && placement.address - region.origin < region.length;
      if (placement.found && inside) placement.region = region.name;
    }
  }
  return placements;
}

}  // namespace fibula
