#include "binary/coff_symbols.hpp"

#include <algorithm>

namespace fibula::coff {
namespace {

constexpr uint8_t class_external = 2, class_static = 3, class_weak_external = 105;
constexpr int32_t undefined_section = 0, absolute_section = -1;
constexpr uint8_t select_associative = 5;

/// A symbol's fields; the two object forms differ in the width of the section number only.
struct Entry {
  Record record;
  bool big;

  uint32_t value() const { return record.u32(8); }
  int32_t section() const { return big ? static_cast<int32_t>(record.u32(12)) : static_cast<int16_t>(record.u16(12)); }
  uint16_t type() const { return record.u16(big ? 16 : 14); }
  uint8_t storage() const { return record.u8(big ? 18 : 16); }
  uint8_t auxiliaries() const { return record.u8(big ? 19 : 17); }
};

/// The table of a file, with names looked up in its strings.
class SymbolReader {
 public:
  static Result<SymbolReader> of(const File& file) {
    const uint64_t size = file.big ? 20 : 18;
    auto bytes = file.bytes.slice(file.symbols_at, uint64_t{file.symbol_count} * size, "symbol table");
    if (!bytes) return pass(bytes);
    auto table = Table::of(*bytes, size, size, Order::little, "symbol table");
    if (!table) return pass(table);
    return SymbolReader(file, *bytes, *table);
  }

  uint64_t count() const { return table_.count(); }
  Bytes file() const { return file_->bytes; }
  Entry operator[](uint64_t i) const { return {table_[i], file_->big}; }

  /// A name of up to eight bytes stands in the entry, a longer one in the strings.
  Result<std::string_view> name(uint64_t i) const {
    const Entry entry = (*this)[i];
    if (entry.record.u32(0) == 0) {
      const auto name = file_->strings.terminated(entry.record.u32(4));
      if (name) return *name;
      return file_->strings.c_string(entry.record.u32(4), "symbol name");
    }
    const uint64_t size = file_->big ? 20 : 18;
    const auto field = bytes_.text().substr(i * size, 8);
    return field.substr(0, field.find('\0'));
  }

  /// The defaults of weak externals: a definition under another name in this file makes it one.
  bool has_default(uint64_t i) const {
    if ((*this)[i].auxiliaries() == 0 || i + 1 >= count()) return false;
    const uint32_t target = (*this)[i + 1].record.u32(0);
    return target < count() && (*this)[target].section() > undefined_section;
  }

 private:
  SymbolReader(const File& file, Bytes bytes, Table table) : file_(&file), bytes_(bytes), table_(table) {}

  const File* file_;
  Bytes bytes_;
  Table table_;
};

ImageSymbol symbol_of(const SymbolReader& reader, uint64_t i) {
  const Entry entry = reader[i];
  const bool weak = entry.storage() == class_weak_external;
  ImageSymbol symbol;
  symbol.index = static_cast<uint32_t>(i);
  symbol.value = entry.value();
  symbol.section = static_cast<uint32_t>(entry.section());
  symbol.binding = weak ? Binding::weak : Binding::global;
  symbol.common = !weak && entry.section() == undefined_section && entry.value() != 0;
  symbol.size = symbol.common ? entry.value() : 0;
  symbol.defined = weak ? reader.has_default(i) : symbol.common || entry.section() != undefined_section;
  const bool function = (entry.type() & 0xf0U) == 0x20;
  symbol.kind = function                                                ? SymbolKind::function
                : symbol.defined && entry.section() != absolute_section ? SymbolKind::data
                                                                        : SymbolKind::none;
  return symbol;
}

Result<void> each_external(const SymbolReader& reader, const std::function<void(const ImageSymbol&, uint64_t)>& visit) {
  Budget budget(reader.file());
  for (uint64_t i = 0; i < reader.count(); i += 1 + uint64_t{reader[i].auxiliaries()}) {
    const uint8_t storage = reader[i].storage();
    if (storage != class_external && storage != class_weak_external) continue;
    auto name = reader.name(i);
    if (!name) return pass(name);
    if (!budget.spend(name->size())) return fail(Budget::exceeded(reader.file(), "symbol table"));
    ImageSymbol symbol = symbol_of(reader, i);
    symbol.name = *name;
    if (!symbol.name.empty()) visit(symbol, i);
  }
  return {};
}

/// COMDAT: the symbol of the section itself says how copies are chosen; the first other symbol in the section names the
/// group. An associative section belongs to the group of the section it names.
struct Comdats {
  std::vector<int32_t> of_section;
  std::vector<std::pair<uint32_t, uint32_t>> associated;  ///< section, and the one it belongs to
};

/// The selection of a section's symbol, or 0, and the section it names (auxiliary format 5).
std::pair<uint8_t, uint32_t> selection(const SymbolReader& reader, uint64_t i, bool big) {
  const Entry entry = reader[i];
  if (entry.storage() != class_static || entry.auxiliaries() == 0 || entry.value() != 0 || i + 1 >= reader.count())
    return {};
  const Record auxiliary = reader[i + 1].record;
  const uint32_t high = big ? auxiliary.u16(16) : 0;
  return {auxiliary.u8(14), auxiliary.u16(12) | high << 16U};
}

Result<Comdats> read_comdats(const File& file, const SymbolReader& reader, Image& image) {
  Comdats comdats{std::vector<int32_t>(file.sections.size() + 1, -1), {}};
  Budget budget(file.bytes);
  std::vector<bool> waits(file.sections.size() + 1);  // for the symbol that names its group
  for (uint64_t i = 0; i < reader.count(); i += 1 + uint64_t{reader[i].auxiliaries()}) {
    const int32_t number = reader[i].section();
    if (number <= 0 || static_cast<size_t>(number) > file.sections.size()) continue;
    const auto section = static_cast<uint32_t>(number);
    if ((file.sections[section - 1].flags & comdat) == 0) continue;
    const auto [select, other] = selection(reader, i, file.big);
    if (select == select_associative) {
      comdats.associated.emplace_back(section, other);
    } else if (select != 0) {
      waits[section] = true;
    } else if (waits[section]) {
      auto name = reader.name(i);
      if (!name) return pass(name);
      if (!budget.spend(name->size())) return fail(Budget::exceeded(file.bytes, "symbol table"));
      waits[section] = false;
      comdats.of_section[section] = static_cast<int32_t>(image.groups.size());
      image.groups.push_back(*name);
    }
  }
  for (const auto& [section, leader] : comdats.associated) {
    if (leader < comdats.of_section.size()) comdats.of_section[section] = comdats.of_section[leader];
  }
  return comdats;
}

}  // namespace

Result<void> read_symbols(const File& file, Image& image) {
  if (file.symbols_at == 0) return {};
  auto reader = SymbolReader::of(file);
  if (!reader) return pass(reader);
  auto comdats = read_comdats(file, *reader, image);
  if (!comdats) return pass(comdats);
  return each_external(*reader, [&](const ImageSymbol& symbol, uint64_t) {
    image.symbols.push_back(symbol);
    const bool placed = static_cast<int32_t>(symbol.section) > 0 && symbol.section < comdats->of_section.size();
    if (placed && symbol.defined) image.symbols.back().group = comdats->of_section[symbol.section];
  });
}

Result<std::vector<int32_t>> groups_of_sections(const File& file) {
  if (file.symbols_at == 0) return std::vector<int32_t>(file.sections.size() + 1, -1);
  auto reader = SymbolReader::of(file);
  if (!reader) return pass(reader);
  Image image;
  auto comdats = read_comdats(file, *reader, image);
  if (!comdats) return pass(comdats);
  return std::move(comdats->of_section);
}

Result<void> walk_symbols(const File& file, const SymbolSink& sink) {
  if (file.symbols_at == 0) return {};
  auto reader = SymbolReader::of(file);
  if (!reader) return pass(reader);
  return each_external(*reader, [&](const ImageSymbol& symbol, uint64_t) { sink(symbol); });
}

uint32_t compiler_id(const File& file) {
  if (file.symbols_at == 0) return 0;
  const auto reader = SymbolReader::of(file);
  if (!reader) return 0;
  for (uint64_t i = 0; i < std::min<uint64_t>(reader->count(), 4); ++i) {
    const auto name = reader->name(i);
    if (name && *name == "@comp.id" && (*reader)[i].section() == absolute_section) return (*reader)[i].value();
  }
  return 0;
}

}  // namespace fibula::coff
