#include "binary/coff_file.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <charconv>
#include <optional>

namespace fibula::coff {
namespace {

struct Machine {
  uint16_t number;
  Arch arch;
  int bits;
};

/// "Machine Types".
constexpr Machine machines[] = {
    {0x014c, Arch::x86, 32},         {0x8664, Arch::x86_64, 64},  {0x01c0, Arch::arm, 32},
    {0x01c2, Arch::arm, 32},         {0x01c4, Arch::arm, 32},     {0xaa64, Arch::aarch64, 64},
    {0xa641, Arch::arm64ec, 64},     {0xa64e, Arch::arm64ec, 64}, {0x0200, Arch::ia64, 64},
    {0x5032, Arch::riscv32, 32},     {0x5064, Arch::riscv64, 64}, {0x0166, Arch::mipsel, 32},
    {0x6264, Arch::loongarch64, 64}, {0x01f0, Arch::ppc, 32},     {0x01a6, Arch::sh, 32},
};

constexpr uint64_t header_size = 20, big_header_size = 56, section_size = 40;

/// The class id behind the header's first words: who wrote a file that begins with 0 and 0xffff.
constexpr std::string_view big_object_class("\xc7\xa1\xba\xd1\xee\xba\xa9\x4b\xaf\x20\xfa\xf6\x6a\xa4\xdc\xb8", 16);
constexpr std::string_view whole_program_class("\x38\xfe\xb3\x0c\xa5\xd9\xab\x4d\xac\x9b\xd6\xb6\x22\x26\x53\xc2", 16);

bool has_class(Bytes bytes, std::string_view wanted) {
  return bytes.size() >= big_header_size && bytes.starts_with(std::string_view("\0\0\xff\xff", 4)) &&
         bytes.text().substr(12, 16) == wanted;
}

/// Names of over eight bytes are `/123`, an offset into the strings in decimal (`//` and base 64 beyond 9,999,999).
std::optional<uint64_t> string_offset(std::string_view field) {
  if (field.starts_with("//")) {
    static constexpr std::string_view letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    uint64_t value = 0;
    for (const char c : field.substr(2)) {
      const size_t digit = letters.find(c);
      if (digit == std::string_view::npos) return std::nullopt;
      value = value * 64 + digit;
    }
    return value;
  }
  uint64_t value = 0;
  const char* end = field.data() + field.size();
  const auto [stop, error] = std::from_chars(field.data() + 1, end, value);
  if (error != std::errc() || stop != end) return std::nullopt;
  return value;
}

Result<std::string_view> section_name(const File& file, Bytes header) {
  const auto field = header.text().substr(0, 8);
  const auto name = field.substr(0, field.find('\0'));
  if (!name.starts_with('/') || name.size() < 2) return name;
  const auto offset = string_offset(name);
  if (!offset) return fail(header.error(Code::malformed, 0, fmt::format("section name {} is no offset", name)));
  // Images keep such names only when they keep their symbols.
  if (file.strings.empty()) return name;
  return file.strings.c_string(*offset, "section name");
}

/// The number of relocations, which stands in the first of them when there are more than fit 16 bits.
constexpr uint32_t relocations_overflow = 0x01000000;

Result<void> read_sections(File& file, uint64_t at, uint32_t count) {
  auto bytes = file.bytes.slice(at, uint64_t{count} * section_size, "section table");
  if (!bytes) return pass(bytes);
  auto table = Table::of(*bytes, section_size, section_size, Order::little, "section table");
  if (!table) return pass(table);
  file.sections.reserve(count);
  Budget budget(file.bytes);
  for (uint32_t i = 0; i < count; ++i) {
    auto header = bytes->slice(uint64_t{i} * section_size, section_size, "section header");
    auto name = section_name(file, *header);
    if (!name) return pass(name);
    if (!budget.spend(name->size())) return fail(Budget::exceeded(*bytes, "section table"));
    const Record r = (*table)[i];
    Section section{.name = *name,
                    .size = r.u32(16),
                    .address = r.u32(12),
                    .memory_size = r.u32(8),
                    .offset = r.u32(20),
                    .relocations_at = r.u32(24),
                    .relocations = r.u16(32),
                    .flags = r.u32(36)};
    if ((section.flags & relocations_overflow) != 0 && section.relocations == 0xffff) {
      auto first = file.bytes.slice(section.relocations_at, 10, "relocation count");
      if (!first) return pass(first);
      section.relocations = Cursor(*first, Order::little, "relocation count").u32();
    }
    file.sections.push_back(section);
  }
  return {};
}

/// The string table follows the symbols and begins with its own size.
Result<void> find_strings(File& file) {
  if (file.symbols_at == 0) return {};
  const uint64_t size = uint64_t{file.symbol_count} * (file.big ? 20 : 18);
  auto symbols = file.bytes.slice(file.symbols_at, size, "symbol table");
  if (!symbols) return pass(symbols);
  const uint64_t at = file.symbols_at + size;
  if (at == file.bytes.size()) return {};  // nothing needed it
  auto head = file.bytes.slice(at, 4, "string table");
  if (!head) return pass(head);
  const uint32_t length = Cursor(*head, Order::little, "string table").u32();
  if (length < 4) return {};  // some assemblers write 0
  auto strings = file.bytes.slice(at, length, "string table");
  if (!strings) return pass(strings);
  file.strings = *strings;
  return {};
}

Result<File> read_big(Bytes bytes) {
  File file{.bytes = bytes, .big = true};
  Cursor c(bytes, Order::little, "big-object header");
  c.skip(6);
  file.machine = c.u16();
  c.skip(36);  // time, class, four sizes of metadata
  const uint32_t sections = c.u32();
  file.symbols_at = c.u32();
  file.symbol_count = c.u32();
  if (!c) return fail(c.error());
  if (auto found = find_strings(file); !found) return pass(found);
  if (auto read = read_sections(file, big_header_size, sections); !read) return pass(read);
  return file;
}

}  // namespace

Arch arch_of(uint16_t machine) {
  const auto* row =
      std::find_if(std::begin(machines), std::end(machines), [&](const Machine& m) { return m.number == machine; });
  return row == std::end(machines) ? Arch::unknown : row->arch;
}

int bits_of(Arch arch) {
  const auto* row =
      std::find_if(std::begin(machines), std::end(machines), [&](const Machine& m) { return m.arch == arch; });
  return row == std::end(machines) ? 0 : row->bits;
}

Result<Bytes> File::content(const Section& section) const {
  if ((section.flags & uninitialised) != 0 || section.offset == 0) return Bytes();
  return bytes.slice(section.offset, section.size, section.name);
}

const Section* File::named(std::string_view name) const {
  const auto found = std::find_if(sections.begin(), sections.end(), [&](const Section& s) { return s.name == name; });
  return found == sections.end() ? nullptr : &*found;
}

Result<File> read_tables(Bytes bytes, uint64_t at, uint64_t optional_header_end) {
  File file{.bytes = bytes};
  auto header = bytes.slice(at, header_size, "COFF header");
  if (!header) return pass(header);
  Cursor c(*header, Order::little, "COFF header");
  file.machine = c.u16();
  const uint16_t sections = c.u16();
  c.skip(4);
  file.symbols_at = c.u32();
  file.symbol_count = c.u32();
  const uint16_t optional = c.u16();
  file.characteristics = c.u16();
  const bool image = optional_header_end != 0;
  // What a strip left in an image's header is no reason to refuse it: no loader looks there.
  if (auto found = find_strings(file); !found && !image) return pass(found);
  const uint64_t table = image ? optional_header_end : at + header_size + optional;
  if (auto read = read_sections(file, table, sections); !read) return pass(read);
  return file;
}

bool is_object(Bytes bytes) {
  if (has_class(bytes, big_object_class) || has_class(bytes, whole_program_class)) return true;
  if (bytes.size() < header_size) return false;
  Cursor c(bytes, Order::little, "COFF header");
  const uint16_t machine = c.u16(), sections = c.u16();
  c.skip(4);
  const uint32_t symbols_at = c.u32(), symbol_count = c.u32();
  const uint16_t optional = c.u16();
  // Two bytes are little evidence: the tables must lie inside the file too, and an object has no optional header.
  return arch_of(machine) != Arch::unknown && optional == 0 && sections > 0 &&
         uint64_t{sections} * section_size <= bytes.size() - header_size && symbols_at <= bytes.size() &&
         uint64_t{symbol_count} * 18 <= bytes.size() - symbols_at;
}

Result<File> read_file(Bytes bytes) {
  if (has_class(bytes, big_object_class)) return read_big(bytes);
  if (has_class(bytes, whole_program_class)) {
    Cursor c(bytes, Order::little, "whole-program header");
    c.skip(6);
    return File{.bytes = bytes, .machine = c.u16(), .whole_program = true};
  }
  return read_tables(bytes, 0, 0);
}

}  // namespace fibula::coff
