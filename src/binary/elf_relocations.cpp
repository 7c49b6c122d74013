/// Relocations of relocatable files: is the code position independent, and who refers to a symbol.
/// Numbers from the processor supplements (psABI) of each architecture.
#include "binary/elf.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <array>

namespace fibula::elf {
namespace {

struct Relocation {
  uint64_t offset;
  uint32_t type;
  uint32_t symbol;
  std::optional<uint64_t> addend;  ///< of SHT_RELA
};

/// Visits the relocations of every section that `wanted` accepts, until `visit` says stop (true). A template, since a
/// library has millions of them and most visits are one comparison.
template <class Wanted, class Visit>
Result<void> each_relocation(const File& file, const Wanted& wanted, const Visit& visit) {
  Budget budget(file.bytes);
  for (const auto& section : file.sections) {
    if (section.type != sht_rel && section.type != sht_rela) continue;
    if (section.info >= file.sections.size() || !wanted(file.sections[section.info], section.info)) continue;
    auto bytes = file.content(section);
    if (!bytes) return pass(bytes);
    if (!budget.spend(bytes->size())) return fail(Budget::exceeded(*bytes, "relocation section"));
    const uint64_t word = file.wide ? 8 : 4, least = word * (section.type == sht_rela ? 3 : 2);
    auto table = Table::of(*bytes, section.entry_size, least, file.order, "relocation section");
    if (!table) return pass(table);
    for (uint64_t i = 0; i < table->count(); ++i) {
      const Record r = (*table)[i];
      const uint64_t info = r.word(file.wide ? 8 : 4, file.wide);
      const Relocation relocation{
          .offset = r.word(0, file.wide),
          .type = static_cast<uint32_t>(file.wide ? info & 0xffffffff : info & 0xff),
          .symbol = static_cast<uint32_t>(file.wide ? info >> 32 : info >> 8),
          .addend = section.type == sht_rela ? std::optional(r.word(2 * word, file.wide)) : std::nullopt};
      if (visit(file.sections[section.info], relocation)) return {};
    }
  }
  return {};
}

/// Relocations that put an absolute address where a position-independent image cannot have one.
struct Absolute {
  uint16_t machine;
  uint32_t type;
  std::string_view name;
  bool only_in_code;  ///< in data the loader can mend it
};

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

/// Relocations that take a symbol's place to be known when linking. In a shared library another file may define the
/// symbol instead, unless its visibility says otherwise.
struct Bound {
  uint16_t machine;
  uint32_t type;
  std::string_view name;
};

constexpr Bound bounds[] = {{em_x86_64, 2, "R_X86_64_PC32"},
                            {em_aarch64, 275, "R_AARCH64_ADR_PREL_PG_HI21"},
                            {em_riscv, 23, "R_RISCV_PCREL_HI20"}};

constexpr uint64_t shf_write = 1, shf_execinstr = 4;

/// The rows of one machine, by the type of relocation.
class Offences {
 public:
  explicit Offences(uint16_t machine) {
    for (const auto& row : absolutes) {
      if (row.machine != machine) continue;
      rows_[row.type] = &row;
      any_ = true;
    }
  }
  bool any() const { return any_; }
  const Absolute* find(uint32_t type, const Section& target) const {
    const Absolute* row = type < rows_.size() ? rows_[type] : nullptr;
    if (row == nullptr || (row->only_in_code && (target.flags & shf_execinstr) == 0)) return nullptr;
    return row;
  }

 private:
  static constexpr size_t types = 512;  // beyond the highest number in the table
  std::array<const Absolute*, types> rows_{};
  bool any_ = false;
};

/// One entry of the linker's table.
std::optional<Record> symbol_record(const File& file, uint32_t index) {
  const Section* table = file.first_of_type(sht_symtab);
  if (table == nullptr) return std::nullopt;
  const auto bytes = file.content(*table);
  if (!bytes) return std::nullopt;
  const auto entries = Table::of(*bytes, table->entry_size, file.wide ? 24 : 16, file.order, "symbol table");
  if (!entries || index >= entries->count()) return std::nullopt;
  return (*entries)[index];
}

uint64_t symbol_value(const File& file, uint32_t index) {
  const auto record = symbol_record(file, index);
  if (!record) return 0;
  return file.wide ? record->u64(8) : record->u32(4);
}

/// The name of a symbol of the linker's table, or of its section when it has none.
std::string symbol_name(const File& file, uint32_t index) {
  const auto record = symbol_record(file, index);
  if (!record) return {};
  if (record->u32(0) == 0) {
    const uint16_t section = record->u16(file.wide ? 6 : 14);
    return section < file.sections.size() ? std::string(file.name_of(file.sections[section]).value_or("")) : "";
  }
  const Section* table = file.first_of_type(sht_symtab);
  if (table->link >= file.sections.size()) return {};
  const auto names = file.content(file.sections[table->link]);
  return names ? std::string(names->terminated(record->u32(0)).value_or("")) : std::string();
}

}  // namespace

std::optional<uint64_t> relocated(const File& file, const Section& target, uint64_t offset) {
  if (file.type != 1) return std::nullopt;  // the linker has done it
  std::optional<uint64_t> value;
  const auto here = [&](const Section& section, size_t) { return &section == &target; };
  (void)each_relocation(file, here, [&](const Section&, const Relocation& relocation) {
    if (relocation.offset != offset) return false;
    if (relocation.addend) value = *relocation.addend + symbol_value(file, relocation.symbol);
    return true;
  });
  return value;
}

std::vector<std::pair<uint64_t, uint64_t>> relocated_fields(const File& file, const Section& target) {
  std::vector<std::pair<uint64_t, uint64_t>> fields;
  if (file.type != et_rel) return fields;
  const auto here = [&](const Section& section, size_t) { return &section == &target; };
  (void)each_relocation(file, here, [&](const Section&, const Relocation& relocation) {
    if (relocation.addend)
      fields.emplace_back(relocation.offset, *relocation.addend + symbol_value(file, relocation.symbol));
    return false;
  });
  std::sort(fields.begin(), fields.end());
  return fields;
}

namespace {

PicReport report_of(const File& file, Pic level, std::string_view name, const Section& target,
                    const Relocation& relocation) {
  return {.level = level,
          .relocation = std::string(name),
          .section = std::string(file.name_of(target).value_or("")),
          .offset = relocation.offset,
          .symbol = symbol_name(file, relocation.symbol)};
}

/// Looks for the first relocation that binds a symbol which a shared library would leave to others.
class BoundSearch {
 public:
  explicit BoundSearch(const File& file) : file_(file) {
    const auto* row =
        std::find_if(std::begin(bounds), std::end(bounds), [&](const Bound& b) { return b.machine == file.machine; });
    const Section* symbols = file.first_of_type(sht_symtab);
    if (row == std::end(bounds) || symbols == nullptr) return;
    row_ = row;
    first_global_ = symbols->info;
  }

  void look_at(const Section& target, const Relocation& relocation, std::optional<PicReport>& found) const {
    if (row_ == nullptr || relocation.type != row_->type || relocation.symbol < first_global_ || found) return;
    if ((target.flags & shf_write) != 0) return;  // there the loader can put it right
    const auto symbol = symbol_record(file_, relocation.symbol);
    constexpr uint8_t visibility = 3;
    if (!symbol || (symbol->u8(file_.wide ? 5 : 13) & visibility) != 0) return;
    found = report_of(file_, Pic::programs_only, row_->name, target, relocation);
  }

 private:
  const File& file_;
  const Bound* row_ = nullptr;
  uint32_t first_global_ = 0;
};

}  // namespace

Result<void> read_pic(const File& file, Image& image) {
  // x32 addresses are 32 bits wide, so the rows for x86-64 do not hold.
  const Offences offences(file.machine);
  if (!offences.any() || (file.machine == em_x86_64 && !file.wide)) return {};
  const BoundSearch bound(file);
  std::optional<PicReport> worst, bound_symbol;
  const auto in_memory = [](const Section& target, size_t) { return (target.flags & shf_alloc) != 0; };
  auto visited = each_relocation(file, in_memory, [&](const Section& target, const Relocation& relocation) {
    bound.look_at(target, relocation, bound_symbol);
    const Absolute* row = offences.find(relocation.type, target);
    if (row != nullptr) worst = report_of(file, Pic::no, row->name, target, relocation);
    return row != nullptr;
  });
  if (!visited) return visited;
  image.pic = worst ? *worst : bound_symbol.value_or(PicReport{});
  return {};
}

Result<std::optional<std::string>> reference_to(const File& file, uint32_t symbol_index,
                                                const std::vector<bool>& dropped) {
  std::optional<std::string> place;
  const auto kept = [&](const Section&, size_t index) { return index >= dropped.size() || !dropped[index]; };
  auto visited = each_relocation(file, kept, [&](const Section& target, const Relocation& relocation) {
    if (relocation.symbol != symbol_index) return false;
    place = fmt::format("section {} at {:#x}", file.name_of(target).value_or(""), relocation.offset);
    return true;
  });
  if (!visited) return pass(visited);
  return place;
}

}  // namespace fibula::elf
