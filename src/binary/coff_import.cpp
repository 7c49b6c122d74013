#include "binary/coff_import.hpp"

#include "binary/coff_file.hpp"

#include <fmt/format.h>

namespace fibula::coff {
namespace {

enum class ImportKind : unsigned { code, data, constant };

/// A member defines the pointer `__imp_f`, and `f` itself unless it is data: for code the linker makes a jump.
void add_symbols(std::string_view name, ImportKind kind, std::string_view library, Image& image) {
  image.made_names = std::make_shared<const std::deque<std::string>>(1, "__imp_" + std::string(name));
  image.symbols.push_back(
      {.name = image.made_names->front(), .library = library, .kind = SymbolKind::data, .defined = true});
  if (kind == ImportKind::data) return;
  const auto plain = kind == ImportKind::code ? SymbolKind::function : SymbolKind::data;
  image.symbols.push_back({.name = name, .library = library, .kind = plain, .defined = true});
}

}  // namespace

bool is_import_member(Bytes bytes) {
  // Sig1 is 0 (IMAGE_FILE_MACHINE_UNKNOWN), Sig2 0xffff, Version 0; the big-object form has version 1 or 2.
  return bytes.size() >= 20 && bytes.starts_with(std::string_view("\0\0\xff\xff\0\0", 6));
}

Result<Image> read_import_member(Bytes bytes) {
  Cursor c(bytes, Order::little, "import member");
  c.skip(6);
  const uint16_t machine = c.u16();
  c.skip(4);  // time
  const uint32_t size = c.u32();
  c.skip(2);  // ordinal or hint
  const uint16_t type = c.u16();
  if (!c) return fail(c.error());
  auto names = bytes.slice(20, size, "names of the import member");
  if (!names) return pass(names);
  auto symbol = names->c_string(0, "imported symbol");
  if (!symbol) return pass(symbol);
  if (symbol->empty()) return fail(bytes.error(Code::malformed, 20, "import member names no symbol"));
  auto library = names->c_string(symbol->size() + 1, "imported DLL");
  if (!library) return pass(library);
  if ((type & 3U) > 2) {
    return fail(bytes.error(Code::malformed, 18, fmt::format("import member has type {}, expected 0 to 2", type & 3U)));
  }
  Image image;
  image.type = ImageType::import_member;
  image.machine = machine;
  image.target = {.format = Format::coff, .arch = arch_of(machine), .bits = bits_of(arch_of(machine))};
  image.soname = *library;
  add_symbols(*symbol, static_cast<ImportKind>(type & 3U), *library, image);
  return image;
}

}  // namespace fibula::coff
