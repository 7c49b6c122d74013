/// Import, delay-import and export directories (PE Format specification, "The .idata Section", "Delay-Load Import
/// Tables", "The .edata Section").
#include "binary/pe_image.hpp"

#include <fmt/format.h>
#include <tuple>

namespace fibula::pe {
namespace {

/// Reads the names of one DLL's list: a zero word ends it, the highest bit says that a number stands for the name.
Result<void> read_names(const File& file, uint64_t address, std::string_view library, Budget& budget,
                        const SymbolSink& sink) {
  auto list = file.at(address, "import name table");
  if (!list) return pass(list);
  Cursor c(*list, Order::little, "import name table");
  const uint64_t by_number = file.wide ? uint64_t{1} << 63U : uint64_t{1} << 31U;
  while (true) {
    const uint64_t entry = c.word(file.wide);
    if (!c) return fail(c.error());
    if (entry == 0) return {};
    constexpr uint64_t least = 8;  // what a name takes besides its letters
    if (!budget.spend(least)) return fail(Budget::exceeded(*list, "import directory"));
    ImageSymbol symbol{.library = library};
    if ((entry & by_number) != 0) {
      const std::string name = fmt::format("#{}", entry & 0xffff);
      symbol.name = name;
      sink(symbol);
      continue;
    }
    auto name = file.text((entry & 0x7fffffff) + 2, "imported name");  // after a hint
    if (!name) return pass(name);
    if (!budget.spend(name->size())) return fail(Budget::exceeded(*list, "import directory"));
    symbol.name = *name;
    if (!symbol.name.empty()) sink(symbol);
  }
}

/// A descriptor's fields that both kinds of import have, as addresses from the image's base.
struct Descriptor {
  uint64_t name = 0, names = 0;
};

/// Walks descriptors until one without a name.
Result<void> read_descriptors(const File& file, Directory directory, uint64_t size, NeedKind kind,
                              Descriptor (*descriptor)(const Record&, const File&), std::vector<Need>& needs,
                              const SymbolSink& sink) {
  const Range range = file.directories[directory];
  if (range.address == 0) return {};
  auto bytes = file.at(range.address, "import directory");
  if (!bytes) return pass(bytes);
  if (bytes->empty()) return {};  // files with debug information only keep the headers of what they belong to
  auto table = Table::of(*bytes, size, size, Order::little, "import directory");
  if (!table) return pass(table);
  Budget budget(file.coff.bytes);
  for (uint64_t i = 0; i < table->count(); ++i) {
    const Descriptor entry = descriptor((*table)[i], file);
    if (entry.name == 0) return {};
    auto library = file.text(entry.name, "imported DLL's name");
    if (!library) return pass(library);
    if (!budget.spend(library->size())) return fail(Budget::exceeded(*bytes, "import directory"));
    needs.push_back({.name = std::string(*library), .kind = kind});
    if (entry.names == 0) continue;
    if (auto read = read_names(file, entry.names, *library, budget, sink); !read) return read;
  }
  return fail(bytes->error(Code::malformed, 0, "import directory does not end"));
}

Descriptor ordinary(const Record& r, const File&) {
  const uint32_t lookup = r.u32(0), table = r.u32(16);
  return {r.u32(12), lookup != 0 ? lookup : table};
}

/// Early compilers wrote addresses in memory here; bit 0 of the attributes says that they are relative.
Descriptor delayed(const Record& r, const File& file) {
  const uint64_t base = (r.u32(0) & 1U) != 0 ? 0 : file.base;
  const auto relative = [&](uint32_t address) { return address >= base ? address - base : 0; };
  return {relative(r.u32(4)), relative(r.u32(16))};
}

struct ExportTables {
  Bytes functions, names, numbers;
  uint32_t base = 0;
};

Result<Bytes> counted(const File& file, uint64_t address, uint64_t count, uint64_t size, std::string_view what) {
  if (count == 0) return Bytes();
  auto bytes = file.at(address, what);
  if (!bytes) return bytes;
  return bytes->slice(0, count * size, what);
}

/// An address inside the export directory is no code but the text `OTHER.name`: a forwarder.
Result<void> complete(const File& file, uint32_t address, ImageSymbol& symbol) {
  const Range range = file.directories[dir_export];
  symbol.defined = true;
  symbol.value = address;
  if (address < range.address || address - range.address >= range.size) return {};
  auto forward = file.text(address, "forwarder");
  if (!forward) return pass(forward);
  symbol.library = *forward;
  symbol.kind = SymbolKind::indirect;
  return {};
}

Result<void> read_named(const File& file, const ExportTables& tables, std::vector<bool>& named,
                        const SymbolSink& sink) {
  Cursor names(tables.names, Order::little, "export names"), numbers(tables.numbers, Order::little, "export numbers");
  auto functions = Table::of(tables.functions, 4, 4, Order::little, "export addresses");
  if (!functions) return pass(functions);
  Budget budget(file.coff.bytes);
  for (uint64_t i = 0; i < tables.names.size() / 4; ++i) {
    const uint32_t name_at = names.u32();
    const uint16_t number = numbers.u16();
    if (number >= functions->count()) {
      return fail(tables.numbers.error(
          Code::malformed, i * 2, fmt::format("export names function {}, there are {}", number, functions->count())));
    }
    auto name = file.text(name_at, "exported name");
    if (!name) return pass(name);
    if (!budget.spend(name->size())) return fail(Budget::exceeded(tables.names, "export directory"));
    ImageSymbol symbol{.name = *name, .index = tables.base + number};
    if (auto done = complete(file, (*functions)[number].u32(0), symbol); !done) return done;
    named[number] = true;
    if (!symbol.name.empty()) sink(symbol);
  }
  return {};
}

Result<void> read_numbered(const File& file, const ExportTables& tables, const std::vector<bool>& named,
                           const SymbolSink& sink) {
  Cursor c(tables.functions, Order::little, "export addresses");
  for (size_t i = 0; i < named.size(); ++i) {
    const uint32_t address = c.u32();
    if (named[i] || address == 0) continue;
    const std::string name = fmt::format("#{}", tables.base + i);
    ImageSymbol symbol{.name = name, .index = static_cast<uint32_t>(tables.base + i)};
    if (auto done = complete(file, address, symbol); !done) return done;
    sink(symbol);
  }
  return {};
}

}  // namespace

Result<void> read_imports(const File& file, std::vector<Need>& needs, const SymbolSink& sink) {
  auto read = read_descriptors(file, dir_import, 20, NeedKind::ordinary, ordinary, needs, sink);
  if (!read) return read;
  return read_descriptors(file, dir_delay_import, 32, NeedKind::delayed, delayed, needs, sink);
}

Result<void> read_exports(const File& file, std::optional<std::string_view>& name, const SymbolSink& sink) {
  const Range range = file.directories[dir_export];
  if (range.address == 0 || range.size == 0) return {};
  auto bytes = file.at(range.address, "export directory");
  if (!bytes) return pass(bytes);
  if (bytes->empty()) return {};
  Cursor c(*bytes, Order::little, "export directory");
  c.skip(12);
  const uint32_t name_at = c.u32();
  ExportTables tables;
  tables.base = c.u32();
  const uint32_t functions = c.u32(), names = c.u32(), functions_at = c.u32(), names_at = c.u32(), numbers_at = c.u32();
  if (!c) return fail(c.error());
  if (name_at != 0) {
    auto text = file.text(name_at, "DLL's own name");
    if (!text) return pass(text);
    name = *text;
  }
  for (const auto& [into, at, count, size, what] :
       {std::tuple{&tables.functions, functions_at, functions, 4, "export addresses"},
        {&tables.names, names_at, names, 4, "export names"},
        {&tables.numbers, numbers_at, names, 2, "export numbers"}}) {
    auto part = counted(file, at, count, static_cast<uint64_t>(size), what);
    if (!part) return pass(part);
    *into = *part;
  }
  std::vector<bool> named(functions);
  if (auto read = read_named(file, tables, named, sink); !read) return read;
  return read_numbered(file, tables, named, sink);
}

}  // namespace fibula::pe
