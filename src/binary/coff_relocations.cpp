#include "binary/coff_relocations.hpp"

#include <fmt/format.h>

namespace fibula::coff {
namespace {

constexpr uint32_t many_relocations = 0x01000000;  // IMAGE_SCN_LNK_NRELOC_OVFL: the first entry holds their number
constexpr uint64_t entry_size = 10;

Result<Table> relocations_of(const File& file, const Section& section) {
  uint64_t count = section.relocations;
  uint64_t at = section.relocations_at;
  if (count == 0) return Table();
  if ((section.flags & many_relocations) != 0) {
    auto first = file.bytes.slice(at, entry_size, "relocations");
    if (!first) return pass(first);
    const uint32_t real = Cursor(*first, Order::little, "relocations").u32();
    count = real > 0 ? real - 1 : 0;
    at += entry_size;
  }
  auto bytes = file.bytes.slice(at, count * entry_size, "relocations");
  if (!bytes) return pass(bytes);
  return Table::of(*bytes, entry_size, entry_size, Order::little, "relocations");
}

}  // namespace

Result<std::optional<std::string>> reference_to(const File& file, uint32_t symbol_index,
                                                const std::vector<bool>& dropped) {
  Budget budget(file.bytes);
  for (size_t i = 0; i < file.sections.size(); ++i) {
    const Section& section = file.sections[i];
    if (i + 1 < dropped.size() && dropped[i + 1]) continue;
    auto table = relocations_of(file, section);
    if (!table) return pass(table);
    if (!budget.spend(table->count() * entry_size)) return fail(Budget::exceeded(file.bytes, "relocations"));
    for (uint64_t k = 0; k < table->count(); ++k) {
      const Record entry = (*table)[k];
      if (entry.u32(4) == symbol_index)
        return std::optional(fmt::format("section {} at {:#x}", section.name, entry.u32(0)));
    }
  }
  return std::optional<std::string>{};
}

}  // namespace fibula::coff
