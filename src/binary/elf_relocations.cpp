/// Relocations of relocatable files: is the code position independent, and who refers to a symbol.
/// Numbers from the processor supplements (psABI) of each architecture.
#include "binary/elf.hpp"

#include <fmt/format.h>
#include <functional>

namespace fibula::elf {
namespace {

struct Relocation {
  uint64_t offset;
  uint32_t type;
  uint32_t symbol;
};

/// Visits the relocations of every section that `wanted` accepts, until `visit` says stop (true).
Result<bool> each_relocation(const File& file, const std::function<bool(const Section& target, size_t index)>& wanted,
                             const std::function<bool(const Section& target, const Relocation&)>& visit) {
  for (const auto& section : file.sections) {
    if (section.type != sht_rel && section.type != sht_rela) continue;
    if (section.info >= file.sections.size() || !wanted(file.sections[section.info], section.info)) continue;
    auto bytes = file.content(section);
    if (!bytes) return pass(bytes);
    const uint64_t word = file.wide ? 8 : 4, least = word * (section.type == sht_rela ? 3 : 2);
    auto table = Table::of(*bytes, section.entry_size, least, file.order, "relocation section");
    if (!table) return pass(table);
    for (uint64_t i = 0; i < table->count(); ++i) {
      const Record r = (*table)[i];
      const uint64_t info = r.word(file.wide ? 8 : 4, file.wide);
      const Relocation relocation{.offset = r.word(0, file.wide),
                                  .type = static_cast<uint32_t>(file.wide ? info & 0xffffffff : info & 0xff),
                                  .symbol = static_cast<uint32_t>(file.wide ? info >> 32 : info >> 8)};
      if (visit(file.sections[section.info], relocation)) return true;
    }
  }
  return true;
}

/// Relocations that put an absolute address where a position-independent image cannot have one.
struct Absolute {
  uint16_t machine;
  uint32_t type;
  std::string_view name;
  bool only_in_code;  ///< in data the loader can mend it
};

constexpr uint16_t em_386 = 3, em_arm = 40, em_x86_64 = 62, em_aarch64 = 183, em_riscv = 243;

constexpr Absolute absolutes[] = {
    {em_x86_64, 10, "R_X86_64_32", false},
    {em_x86_64, 11, "R_X86_64_32S", false},
    {em_x86_64, 12, "R_X86_64_16", false},
    {em_x86_64, 14, "R_X86_64_8", false},
    {em_x86_64, 1, "R_X86_64_64", true},
    {em_386, 1, "R_386_32", true},
    {em_386, 20, "R_386_16", false},
    {em_386, 22, "R_386_8", false},
    {em_arm, 43, "R_ARM_MOVW_ABS_NC", false},
    {em_arm, 44, "R_ARM_MOVT_ABS", false},
    {em_arm, 47, "R_ARM_THM_MOVW_ABS_NC", false},
    {em_arm, 48, "R_ARM_THM_MOVT_ABS", false},
    {em_arm, 2, "R_ARM_ABS32", true},
    {em_aarch64, 263, "R_AARCH64_MOVW_UABS_G0", false},
    {em_aarch64, 265, "R_AARCH64_MOVW_UABS_G1", false},
    {em_aarch64, 267, "R_AARCH64_MOVW_UABS_G2", false},
    {em_aarch64, 269, "R_AARCH64_MOVW_UABS_G3", false},
    {em_aarch64, 258, "R_AARCH64_ABS32", false},
    {em_riscv, 26, "R_RISCV_HI20", false},
};

constexpr uint64_t shf_execinstr = 4;

const Absolute* offence(uint16_t machine, uint32_t type, const Section& target) {
  for (const auto& row : absolutes) {
    if (row.machine != machine || row.type != type) continue;
    if (row.only_in_code && (target.flags & shf_execinstr) == 0) continue;
    return &row;
  }
  return nullptr;
}

bool has_table(uint16_t machine) {
  for (const auto& row : absolutes) {
    if (row.machine == machine) return true;
  }
  return false;
}

/// The name of a symbol of the linker's table, or of its section when it has none.
std::string symbol_name(const File& file, uint32_t index) {
  const Section* table = file.first_of_type(sht_symtab);
  if (table == nullptr || table->link >= file.sections.size()) return {};
  const auto bytes = file.content(*table);
  if (!bytes) return {};
  const auto entries = Table::of(*bytes, table->entry_size, file.wide ? 24 : 16, file.order, "symbol table");
  if (!entries || index >= entries->count()) return {};
  const Record r = (*entries)[index];
  const uint16_t section = r.u16(file.wide ? 6 : 14);
  if (r.u32(0) == 0) return section < file.sections.size() ? std::string(file.sections[section].name) : std::string();
  const auto names = file.content(file.sections[table->link]);
  if (!names) return {};
  const auto name = names->c_string(r.u32(0), "symbol name");
  return name ? std::string(*name) : std::string();
}

}  // namespace

Result<std::optional<PicReport>> read_pic(const File& file) {
  // x32 addresses are 32 bits wide, so the rows for x86-64 do not hold.
  if (!has_table(file.machine) || (file.machine == em_x86_64 && !file.wide)) return std::optional<PicReport>{};
  PicReport report;
  const auto in_memory = [](const Section& target, size_t) { return (target.flags & shf_alloc) != 0; };
  auto visited = each_relocation(file, in_memory, [&](const Section& target, const Relocation& relocation) {
    const Absolute* row = offence(file.machine, relocation.type, target);
    if (row == nullptr) return false;
    report = {.independent = false,
              .relocation = std::string(row->name),
              .section = std::string(target.name),
              .offset = relocation.offset,
              .symbol = symbol_name(file, relocation.symbol)};
    return true;
  });
  if (!visited) return pass(visited);
  return std::optional(report);
}

Result<std::optional<std::string>> reference_to(const File& file, uint32_t symbol_index,
                                                const std::vector<bool>& dropped) {
  std::optional<std::string> place;
  const auto kept = [&](const Section&, size_t index) { return index >= dropped.size() || !dropped[index]; };
  auto visited = each_relocation(file, kept, [&](const Section& target, const Relocation& relocation) {
    if (relocation.symbol != symbol_index) return false;
    place = fmt::format("section {} at {:#x}", target.name, relocation.offset);
    return true;
  });
  if (!visited) return pass(visited);
  return place;
}

}  // namespace fibula::elf
