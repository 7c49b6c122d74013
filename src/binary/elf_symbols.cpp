/// ELF symbol tables and COMDAT groups (gABI chapter 4, "Symbol Table", "Section Groups").
#include "binary/elf.hpp"
#include "binary/elf_versions.hpp"
#include "binary/gcc_lto.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula::elf {
namespace {

constexpr uint16_t shn_undef = 0, shn_common = 0xfff2, shn_lo_reserve = 0xff00, shn_x86_64_lcommon = 0xff02;
constexpr uint32_t grp_comdat = 1;

Binding binding_of(uint8_t info) {
  switch (info >> 4) {
    case 0: return Binding::local;
    case 2: return Binding::weak;
    case 10: return Binding::unique;  // STB_GNU_UNIQUE
    default: return Binding::global;
  }
}

SymbolKind kind_of(uint8_t info) {
  switch (info & 15) {
    case 1:
    case 5: return SymbolKind::data;  // STT_OBJECT, STT_COMMON
    case 2: return SymbolKind::function;
    case 3: return SymbolKind::section;
    case 4: return SymbolKind::file;
    case 6: return SymbolKind::thread_local_;
    case 10: return SymbolKind::indirect;  // STT_GNU_IFUNC
    default: return SymbolKind::none;
  }
}

Visibility visibility_of(uint8_t other) {
  switch (other & 3) {
    case 1: return Visibility::internal;
    case 2: return Visibility::hidden;
    case 3: return Visibility::protected_;
    default: return Visibility::normal;
  }
}

/// The section indices beyond 65,279, in a table beside the symbols.
Result<Table> long_indices(const File& file, const Section& symbols) {
  for (const auto& section : file.sections) {
    if (section.type != sht_symtab_shndx || section.link >= file.sections.size() ||
        &file.sections[section.link] != &symbols)
      continue;
    auto bytes = file.content(section);
    if (!bytes) return pass(bytes);
    return Table::of(*bytes, 4, 4, file.order, "section index table");
  }
  return Table();
}

struct Reader {
  const File& file;
  const Groups& groups;
  Bytes names;
  Table indices;

  void place(ImageSymbol& symbol, uint16_t section, uint64_t index) const {
    symbol.defined = section != shn_undef;
    symbol.common = section == shn_common || (section == shn_x86_64_lcommon && file.machine == 62);
    symbol.section = section;
    if (section == shn_xindex && index < indices.count()) symbol.section = indices[index].u32(0);
    const bool ordinary = section < shn_lo_reserve || section == shn_xindex;
    if (ordinary && symbol.section < groups.of_section.size()) symbol.group = groups.of_section[symbol.section];
  }

  /// Fills `symbol`; false when its name does not lie in the names.
  [[gnu::always_inline]] bool fill(const Record& r, uint64_t index, ImageSymbol& symbol) const {
    const bool wide = file.wide;
    const uint8_t info = r.u8(wide ? 4 : 12), other = r.u8(wide ? 5 : 13);
    symbol.index = static_cast<uint32_t>(index);
    symbol.kind = kind_of(info);
    symbol.binding = binding_of(info);
    symbol.visibility = visibility_of(other);
    symbol.value = wide ? r.u64(8) : r.u32(4);
    symbol.size = wide ? r.u64(16) : r.u32(8);
    symbol.group = -1;
    symbol.version = {};
    place(symbol, r.u16(wide ? 6 : 14), index);
    symbol.name = {};
    const uint32_t offset = r.u32(0);
    if (offset == 0) return true;
    const auto name = names.terminated(offset);
    if (name) symbol.name = *name;
    return name.has_value();
  }
};

/// The name of the symbol that a group is known by: sh_link is the symbol table, sh_info the symbol. A section symbol
/// has no name of its own and stands for its section.
Result<std::string_view> signature_of(const File& file, const Section& group) {
  if (group.link >= file.sections.size()) {
    return fail(file.bytes.error(Code::malformed, group.offset,
                                 fmt::format("section group names symbol table {}, which is not there", group.link)));
  }
  const Section& table = file.sections[group.link];
  auto bytes = file.content(table);
  if (!bytes) return pass(bytes);
  auto symbols = Table::of(*bytes, table.entry_size, file.wide ? 24 : 16, file.order, "symbol table");
  if (!symbols) return pass(symbols);
  if (group.info >= symbols->count() || table.link >= file.sections.size()) {
    return fail(file.bytes.error(Code::malformed, group.offset,
                                 fmt::format("section group is named by symbol {}, which is not there", group.info)));
  }
  const Record symbol = (*symbols)[group.info];
  const uint16_t section = symbol.u16(file.wide ? 6 : 14);
  if (symbol.u32(0) == 0 && section < file.sections.size()) return file.name_of(file.sections[section]);
  auto names = file.content(file.sections[table.link]);
  if (!names) return pass(names);
  return names->c_string(symbol.u32(0), "section group's name");
}

}  // namespace

Result<Groups> read_groups(const File& file) {
  Groups groups;
  const auto is_group = [](const Section& section) { return section.type == sht_group; };
  if (std::none_of(file.sections.begin(), file.sections.end(), is_group)) return groups;
  groups.of_section.assign(file.sections.size(), -1);
  Budget budget(file.bytes);
  for (const auto& section : file.sections) {
    if (!is_group(section)) continue;
    auto bytes = file.content(section);
    if (!bytes) return pass(bytes);
    if (!budget.spend(bytes->size())) return fail(Budget::exceeded(*bytes, "section group"));
    auto words = Table::of(*bytes, 4, 4, file.order, "section group");
    if (!words) return pass(words);
    if (words->count() == 0 || ((*words)[0].u32(0) & grp_comdat) == 0) continue;
    auto signature = signature_of(file, section);
    if (!signature) return pass(signature);
    for (uint64_t i = 1; i < words->count(); ++i) {
      const uint32_t member = (*words)[i].u32(0);
      if (member < groups.of_section.size()) groups.of_section[member] = static_cast<int32_t>(groups.signatures.size());
    }
    if (!budget.spend(signature->size())) return fail(Budget::exceeded(*bytes, "section group"));
    groups.signatures.push_back(*signature);
  }
  return groups;
}

namespace {

/// Names lie anywhere in their table: by the time that a symbol is looked at, its name is in the processor's cache.
constexpr uint64_t names_ahead = 8;

/// The walk itself, until `sink` says false; a template so that what is done with each symbol is part of the loop.
template <class Sink>
Result<void> each_symbol(const File& file, const Section& table, const Groups& groups, const Sink& sink,
                         bool locals = false) {
  auto bytes = file.content(table);
  if (!bytes) return pass(bytes);
  auto entries = Table::of(*bytes, table.entry_size, file.wide ? 24 : 16, file.order, "symbol table");
  if (!entries) return pass(entries);
  if (table.link >= file.sections.size()) {
    return fail(
        file.bytes.error(Code::malformed, table.offset,
                         fmt::format("symbol table takes its names from section {}, which is not there", table.link)));
  }
  auto names = file.content(file.sections[table.link]);
  if (!names) return pass(names);
  auto indices = long_indices(file, table);
  if (!indices) return pass(indices);
  const Reader reader{file, groups, *names, *indices};
  // sh_info is the first non-local symbol (gABI, "sh_link and sh_info"): the linker's question needs none before it.
  // Loaders take no notice of it, and some tools that rewrite libraries leave it wrong in the loader's table.
  const bool sorted = !locals && table.type == sht_symtab && table.info != 0 && table.info <= entries->count();
  const uint64_t first = sorted ? table.info : 1;
  Budget budget(file.bytes);
  ImageSymbol symbol;
  for (uint64_t i = first; i < entries->count(); ++i) {
    if (i + names_ahead < entries->count()) names->prefetch((*entries)[i + names_ahead].u32(0));
    if (!reader.fill((*entries)[i], i, symbol)) {
      auto name = names->c_string((*entries)[i].u32(0), "symbol name");
      return pass(name);
    }
    if (!budget.spend(symbol.name.size())) return fail(Budget::exceeded(*bytes, "symbol table"));
    const bool ordinary = symbol.kind != SymbolKind::section && symbol.kind != SymbolKind::file && !symbol.name.empty();
    if (ordinary && !sink(symbol)) break;
  }
  return {};
}

}  // namespace

Result<std::vector<ImageSymbol>> read_symbols(const File& file, const Section& table, const Groups& groups,
                                              bool locals) {
  std::vector<ImageSymbol> symbols;
  const uint64_t most = file.wide ? table.size / 24 : table.size / 16;
  if (table.size <= file.bytes.size()) symbols.reserve(table.info <= most ? most - table.info : most);
  auto walked = each_symbol(
      file, table, groups,
      [&](const ImageSymbol& symbol) {
        symbols.push_back(symbol);
        return true;
      },
      locals);
  if (!walked) return pass(walked);
  return symbols;
}

Result<bool> walk_symbols(const File& file, const Section& table, const VersionTable* versions,
                          const SymbolSink& sink) {
  bool first = true, slim = false;
  auto walked = each_symbol(file, table, Groups{}, [&](ImageSymbol& symbol) {
    slim = first && symbol.name == gcc_lto::slim_mark;
    first = false;
    if (versions != nullptr) versions->apply(symbol);
    if (!slim) sink(symbol);
    return !slim;
  });
  if (!walked) return pass(walked);
  return !slim;
}

}  // namespace fibula::elf
