#include "binary/pe.hpp"

#include "binary/coff.hpp"
#include "binary/pe_image.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula::pe {
namespace {

constexpr uint16_t is_dll = 0x2000;
constexpr uint16_t magic_narrow = 0x10b, magic_wide = 0x20b;

/// "Windows Subsystem".
std::string subsystem_name(uint16_t number) {
  switch (number) {
    case 1: return "native";
    case 2: return "windows";
    case 3: return "console";
    case 5: return "os/2";
    case 7: return "posix";
    case 9: return "windows-ce";
    case 10: return "efi-application";
    case 11: return "efi-boot-driver";
    case 12: return "efi-runtime-driver";
    case 14: return "xbox";
    case 16: return "boot-application";
    default: return number == 0 ? "" : fmt::format("subsystem {}", number);
  }
}

uint64_t header_offset(Bytes bytes) {
  if (bytes.size() < 64) return 0;
  return load<uint32_t>(bytes.data() + 0x3c, Order::little);
}

/// "Optional Header (Image Only)". The directories follow it; `c` ends behind their count.
uint32_t read_optional(Cursor& c, File& file) {
  file.linker_major = c.u8();
  file.linker_minor = c.u8();
  c.skip(20);                 // sizes of code and data, entry, base of code
  if (!file.wide) c.skip(4);  // base of data
  file.base = c.word(file.wide);
  c.skip(16);  // alignments, versions of the system and the image
  file.system_major = c.u16();
  file.system_minor = c.u16();
  c.skip(8);  // reserved, size of the image
  file.header_size = c.u32();
  c.skip(4);
  file.subsystem = c.u16();
  c.skip(2);
  c.skip(file.wide ? 36 : 20);  // stack, heap, loader flags
  return c.u32();
}

/// A program without names in its exports, imports or records is one all the same.
Result<void> read_debug_directory(const File& file, Image& image) {
  constexpr uint32_t codeview = 2;
  const Range range = file.directories[dir_debug];
  if (range.address == 0) return {};
  auto bytes = file.at(range.address, "debug directory");
  if (!bytes) return pass(bytes);
  auto table = Table::of(*bytes, 28, 28, Order::little, "debug directory");
  if (!table) return pass(table);
  for (uint64_t i = 0; i < std::min<uint64_t>(range.size / 28, table->count()); ++i) {
    const Record r = (*table)[i];
    if (r.u32(12) != codeview) continue;
    auto record = file.coff.bytes.slice(r.u32(24), r.u32(16), "debug record");
    if (!record) return pass(record);
    if (!record->starts_with("RSDS")) continue;
    image.debug_info = true;
    const auto path = record->terminated(24);
    if (path && !path->empty()) image.debug = DebugRecord{.file = *path};
  }
  return {};
}

void ignore(const ImageSymbol&) {}

Image outline(const File& file) {
  Image image;
  image.machine = file.coff.machine;
  image.flags = file.coff.characteristics;
  image.type = (file.coff.characteristics & is_dll) != 0 ? ImageType::shared : ImageType::program;
  const Arch arch = coff::arch_of(file.coff.machine);
  image.target = {.format = Format::pe, .arch = arch, .bits = file.wide ? 64 : 32};
  image.subsystem = subsystem_name(file.subsystem);
  image.system = {"windows", fmt::format("{}.{}", file.system_major, file.system_minor),
                  "optional header, subsystem version"};
  image.linker = {fmt::format("{}.{}", file.linker_major, file.linker_minor), "optional header, linker version"};
  return image;
}

}  // namespace

Result<Bytes> File::at(uint64_t address, std::string_view what) const {
  for (const auto& section : coff.sections) {
    const uint64_t size = std::max(section.size, section.memory_size);
    if (address < section.address || address - section.address >= size) continue;
    auto whole = coff.bytes.slice(section.offset, section.size, section.name);
    if (!whole) return whole;
    return whole->from(address - section.address, what);
  }
  if (address < header_size) return coff.bytes.from(address, what);
  return fail(
      coff.bytes.error(Code::malformed, 0, fmt::format("{} is at address {:#x}, where no section is", what, address)));
}

Result<std::string_view> File::text(uint64_t address, std::string_view what) const {
  auto bytes = at(address, what);
  if (!bytes) return pass(bytes);
  return bytes->c_string(0, what);
}

namespace {

/// Every section must be there whole: loaders map them all, whatever is read of them here.
Result<void> check_sections(const File& file) {
  for (const auto& section : file.coff.sections) {
    if (section.offset == 0 || section.size == 0) continue;
    auto content = file.coff.bytes.slice(section.offset, section.size, section.name);
    if (!content) return pass(content);
  }
  return {};
}

}  // namespace

Result<File> read_file(Bytes bytes) {
  const uint64_t start = header_offset(bytes);
  auto signature = bytes.slice(start, 24, "PE header");
  if (!signature) return pass(signature);
  auto rest = bytes.from(start + 24, "optional header");
  if (!rest) return pass(rest);
  const uint16_t optional = load<uint16_t>(signature->data() + 20, Order::little);
  Cursor c(*rest, Order::little, "optional header");
  File file;
  const uint16_t magic = c.u16();
  if (c && magic != magic_narrow && magic != magic_wide) {
    return fail(rest->error(Code::malformed, 0,
                            fmt::format("optional header has magic {:#x}, expected 0x10b or 0x20b", magic)));
  }
  file.wide = magic == magic_wide;
  const uint32_t count = read_optional(c, file);
  if (!c) return fail(c.error());
  for (uint32_t i = 0; i < std::min<uint32_t>(count, directory_count); ++i) file.directories[i] = {c.u32(), c.u32()};
  if (!c) return fail(c.error());
  auto tables = coff::read_tables(bytes, start + 4, start + 24 + optional);
  if (!tables) return pass(tables);
  file.coff = std::move(*tables);
  if (auto whole = check_sections(file); !whole) return pass(whole);
  return file;
}

bool recognises(Bytes bytes) {
  if (!bytes.starts_with("MZ")) return false;
  const auto signature = bytes.slice(header_offset(bytes), 4, "PE signature");
  return signature && signature->starts_with(std::string_view("PE\0\0", 4));
}

Result<Image> read(Bytes bytes, unsigned want) {
  auto file = read_file(bytes);
  if (!file) return pass(file);
  Image image = outline(*file);
  image.version = read_version(*file);
  if ((want & want_sections) != 0) {
    for (const auto& section : file->coff.sections)
      image.sections.push_back({section.name, section.memory_size, (section.flags & coff::in_memory_discardable) == 0});
  }
  if ((want & (want_symbols | want_dynamic)) != 0) {
    // Names made for what has only a number are lent for the call: they are kept beside the image.
    auto made = std::make_shared<std::deque<std::string>>();
    const auto keep = [&](const ImageSymbol& symbol) {
      image.dynamic_symbols.push_back(symbol);
      if (symbol.name.starts_with('#')) image.dynamic_symbols.back().name = made->emplace_back(symbol.name);
    };
    const SymbolSink sink = (want & want_symbols) != 0 ? SymbolSink(keep) : SymbolSink(ignore);
    if (auto done = read_exports(*file, image.soname, sink); !done) return pass(done);
    if (auto done = read_imports(*file, image.needs, sink); !done) return pass(done);
    if (!made->empty()) image.made_names = std::move(made);
  }
  if ((want & want_debug) != 0) {
    if (auto done = read_debug_directory(*file, image); !done) return pass(done);
    const auto record = image.debug;
    coff::read_debug(file->coff, image);
    if (record && !image.debug) image.debug = record;
  }
  return image;
}

Result<void> walk(Bytes bytes, const SymbolSink& sink) {
  auto file = read_file(bytes);
  if (!file) return pass(file);
  std::optional<std::string_view> name;
  std::vector<Need> needs;
  if (auto done = read_exports(*file, name, sink); !done) return done;
  return read_imports(*file, needs, sink);
}

}  // namespace fibula::pe
