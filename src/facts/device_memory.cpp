#include <fibula/device_memory.hpp>

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

}  // namespace fibula
