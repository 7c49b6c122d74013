#include "binary/bitcode.hpp"

#include "binary/bitstream.hpp"

#include <fmt/format.h>

namespace fibula::bitcode {
namespace {

constexpr std::string_view magic = "BC\xc0\xde", wrapper_magic = "\xde\xc0\x17\x0b";
constexpr uint64_t module_block = 8, identification_block = 13, strtab_block = 23, symtab_block = 25;
constexpr uint64_t identification_string = 1, module_triple = 2, table_blob = 1;

/// What the four blocks say.
struct Parts {
  std::string producer, triple;
  bool any_block = false;  ///< an index of several modules has blocks, and none of a module
  Bytes texts, symbols;
};

Error damaged(Bytes bytes, std::string_view what) {
  return bytes.error(Code::malformed, 0, fmt::format("bitcode: {} cannot be read", what));
}

std::string text_of(const StreamRecord& record) {
  std::string text;
  for (const uint64_t value : record.values) text += static_cast<char>(value);
  return text;
}

/// Reads what is wanted of one block; the bits then stand anywhere inside it.
bool read_part(Bits& bits, const BlockHeader& header, Parts& parts) {
  return read_block(bits, header.abbreviation_width, [&](const StreamRecord& record) {
    if (header.id == identification_block && record.code == identification_string) parts.producer = text_of(record);
    if (header.id == module_block && record.code == module_triple) parts.triple = text_of(record);
    if (header.id == strtab_block && record.code == table_blob) parts.texts = record.blob;
    if (header.id == symtab_block && record.code == table_blob) parts.symbols = record.blob;
    return header.id != module_block || parts.triple.empty();
  });
}

Result<Bytes> unwrapped(Bytes bytes) {
  if (!bytes.starts_with(wrapper_magic)) return bytes;
  Cursor c(bytes, Order::little, "bitcode wrapper");
  c.skip(8);
  const uint32_t offset = c.u32(), size = c.u32();
  if (!c) return fail(c.error());
  return bytes.slice(offset, size, "wrapped bitcode");
}

Result<Parts> read_parts(Bytes whole) {
  auto stream = unwrapped(whole);
  if (!stream) return pass(stream);
  if (!stream->starts_with(magic)) return fail(damaged(*stream, "its first word"));
  Parts parts;
  Bits bits(*stream);
  bits.fixed(32);
  while (bits && !bits.at_end()) {
    if (bits.fixed(2) != 1) return fail(damaged(*stream, fmt::format("the block at {:#x}", bits.byte_position())));
    const BlockHeader header = read_block_header(bits);
    if (!bits) break;
    parts.any_block = true;
    Bits inside = bits;
    bits.skip_words(header.words);
    const bool wanted = header.id == identification_block || header.id == module_block || header.id == strtab_block ||
                        header.id == symtab_block;
    if (bits && wanted && !read_part(inside, header, parts))
      return fail(damaged(*stream, fmt::format("the block {} before {:#x}", header.id, bits.byte_position())));
  }
  if (!bits) {
    return fail(
        stream->error(Code::truncated, bits.byte_position(), "bitcode: a block ends beyond the end of the file"));
  }
  return parts;
}

/// Flags of a symbol (LLVM, Object/IRSymtab.h, "storage::Symbol::FlagBits").
constexpr unsigned bit_undefined = 3, bit_weak = 4, bit_common = 5, bit_indirect = 6, bit_tls = 8, bit_global = 10,
                   bit_format_specific = 11, bit_executable = 13;

ImageSymbol symbol_of(uint32_t flags) {
  const auto has = [&](unsigned bit) { return (flags >> bit & 1U) != 0; };
  static constexpr Visibility visibilities[] = {Visibility::normal, Visibility::hidden, Visibility::protected_,
                                                Visibility::normal};
  ImageSymbol symbol;
  symbol.visibility = visibilities[flags & 3U];
  symbol.defined = !has(bit_undefined);
  symbol.common = has(bit_common);
  symbol.binding = !has(bit_global) ? Binding::local : has(bit_weak) ? Binding::weak : Binding::global;
  symbol.kind = has(bit_tls)          ? SymbolKind::thread_local_
                : has(bit_indirect)   ? SymbolKind::indirect
                : has(bit_executable) ? SymbolKind::function
                : symbol.defined      ? SymbolKind::data
                                      : SymbolKind::none;
  return symbol;
}

/// The symbol table's header: ranges of entries, as offset and count (storage::Header).
struct Table {
  uint32_t version = 0;
  Bytes comdats, symbols;
  uint64_t comdat_size = 0;
  std::string_view triple;
};

Result<Bytes> range(Bytes table, Cursor& c, uint64_t entry_size, std::string_view what) {
  const uint64_t offset = c.u32(), count = c.u32();
  return table.slice(offset, count * entry_size, what);
}

Result<std::string_view> text_at(Bytes texts, uint64_t offset, uint64_t length) {
  auto text = texts.slice(offset, length, "name in the bitcode's texts");
  if (!text) return pass(text);
  return text->text();
}

Result<Table> read_table(const Parts& parts) {
  Cursor c(parts.symbols, Order::little, "bitcode symbol table");
  Table table;
  table.version = c.u32();
  c.skip(8);                                        // producer
  c.skip(8);                                        // modules
  table.comdat_size = table.version >= 3 ? 12 : 8;  // a selection kind was added
  auto comdats = range(parts.symbols, c, table.comdat_size, "bitcode COMDAT table");
  if (!comdats) return pass(comdats);
  table.comdats = *comdats;
  auto symbols = range(parts.symbols, c, 24, "bitcode symbol table");
  if (!symbols) return pass(symbols);
  table.symbols = *symbols;
  c.skip(8);  // uncommon
  const uint64_t triple = c.u32(), length = c.u32();
  if (!c) return fail(c.error());
  auto text = text_at(parts.texts, triple, length);
  if (!text) return pass(text);
  table.triple = *text;
  return table;
}

Result<void> read_groups(const Parts& parts, const Table& table, Image& image) {
  auto entries = fibula::Table::of(table.comdats, table.comdat_size, 8, Order::little, "bitcode COMDAT table");
  if (!entries) return pass(entries);
  for (uint64_t i = 0; i < entries->count(); ++i) {
    auto name = text_at(parts.texts, (*entries)[i].u32(0), (*entries)[i].u32(4));
    if (!name) return pass(name);
    image.groups.push_back(*name);
  }
  return {};
}

Result<void> walk_table(const Parts& parts, const Table& table, const SymbolSink& sink) {
  auto entries = fibula::Table::of(table.symbols, 24, 24, Order::little, "bitcode symbol table");
  if (!entries) return pass(entries);
  Budget budget(parts.texts);
  for (uint64_t i = 0; i < entries->count(); ++i) {
    const Record r = (*entries)[i];
    const uint32_t flags = r.u32(20);
    if ((flags >> bit_format_specific & 1U) != 0) continue;  // names of the compiler's own
    auto name = text_at(parts.texts, r.u32(0), r.u32(4));
    if (!name) return pass(name);
    if (!budget.spend(name->size())) return fail(Budget::exceeded(table.symbols, "bitcode symbol table"));
    ImageSymbol symbol = symbol_of(flags);
    symbol.name = *name;
    symbol.index = static_cast<uint32_t>(i);
    symbol.group = static_cast<int32_t>(r.u32(16));
    if (!symbol.defined) symbol.group = -1;
    if (!symbol.name.empty() && symbol.binding != Binding::local) sink(symbol);
  }
  return {};
}

}  // namespace

bool recognises(Bytes bytes) {
  return bytes.starts_with(magic) || bytes.starts_with(wrapper_magic);
}

Result<Image> read(Bytes bytes, unsigned want) {
  auto parts = read_parts(bytes);
  if (!parts) return pass(parts);
  if (!parts->any_block) return fail({.code = Code::malformed, .what = "bitcode holds nothing"});
  Image image;
  image.type = ImageType::object;
  image.link_time = LinkTimeMark{.maker = LinkTimeMark::Maker::llvm, .version = parts->producer};
  if (!parts->symbols.empty()) {
    auto table = read_table(*parts);
    if (!table) return pass(table);
    if (parts->triple.empty()) parts->triple = table->triple;
    if (auto done = read_groups(*parts, *table, image); !done) return pass(done);
    const auto keep = [&](const ImageSymbol& symbol) {
      image.symbols.push_back(symbol);
      if (symbol.group >= static_cast<int32_t>(image.groups.size())) image.symbols.back().group = -1;
    };
    if ((want & want_symbols) != 0) {
      if (auto done = walk_table(*parts, *table, keep); !done) return pass(done);
    }
  }
  image.target = target_of_triple(parts->triple);
  image.target.format = Format::bitcode;
  return image;
}

Result<void> walk(Bytes bytes, const SymbolSink& sink) {
  auto parts = read_parts(bytes);
  if (!parts) return pass(parts);
  if (parts->symbols.empty()) return {};
  auto table = read_table(*parts);
  if (!table) return pass(table);
  return walk_table(*parts, *table, sink);
}

}  // namespace fibula::bitcode
