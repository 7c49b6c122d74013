#include "binary/coff.hpp"

#include "binary/coff_import.hpp"
#include "binary/coff_symbols.hpp"
#include "binary/dwarf.hpp"
#include "binary/gcc_lto.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <charconv>

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

Result<bool> read_sections(File& file, uint64_t at, uint32_t count) {
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
  return true;
}

/// The string table follows the symbols and begins with its own size.
Result<bool> find_strings(File& file) {
  if (file.symbols_at == 0) return true;
  const uint64_t size = uint64_t{file.symbol_count} * (file.big ? 20 : 18);
  auto symbols = file.bytes.slice(file.symbols_at, size, "symbol table");
  if (!symbols) return pass(symbols);
  const uint64_t at = file.symbols_at + size;
  if (at == file.bytes.size()) return true;  // nothing needed it
  auto head = file.bytes.slice(at, 4, "string table");
  if (!head) return pass(head);
  const uint32_t length = Cursor(*head, Order::little, "string table").u32();
  if (length < 4) return true;  // some assemblers write 0
  auto strings = file.bytes.slice(at, length, "string table");
  if (!strings) return pass(strings);
  file.strings = *strings;
  return true;
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

Result<File> read_file(Bytes bytes) {
  if (has_class(bytes, big_object_class)) return read_big(bytes);
  if (has_class(bytes, whole_program_class)) {
    Cursor c(bytes, Order::little, "whole-program header");
    c.skip(6);
    return File{.bytes = bytes, .machine = c.u16(), .whole_program = true};
  }
  return read_tables(bytes, 0, 0);
}

/// What the sections of an object tell besides code: options for the linker, the DLL that an import library stands for.
Result<bool> read_notes(const File& file, Image& image) {
  Budget budget(file.bytes);
  for (const auto& section : file.sections) {
    if (!budget.spend(section.size)) return fail(Budget::exceeded(file.bytes, "section table"));
    if (section.name == ".drectve") {
      auto text = file.content(section);
      if (!text) return pass(text);
      for (const auto option : split_directives(text->text())) image.directives.push_back(option);
    }
    if (section.name.starts_with(gcc_lto::header)) {
      auto bytes = file.content(section);
      if (!bytes) return pass(bytes);
      auto header = gcc_lto::read_header(*bytes, Order::little);
      if (!header) return pass(header);
      image.link_time = *header;
    }
    if (section.name.starts_with(".rdata$zzz") || section.name == ".comment") {  // GCC's identification
      auto text = file.content(section);
      if (!text) return pass(text);
      if (const auto line = text->terminated(0); line && !line->empty()) image.producers.push_back(*line);
    }
  }
  return true;
}

/// An import library's first member (MSVC-style) or last one (GNU) holds the name of its DLL.
void find_library_name(const File& file, Image& image) {
  const auto defines = [&](auto&& matches) {
    return std::any_of(image.symbols.begin(), image.symbols.end(),
                       [&](const ImageSymbol& s) { return s.defined && matches(s.name); });
  };
  std::string_view where;
  if (defines([](auto name) {
        return name.starts_with("__IMPORT_DESCRIPTOR_") || name.starts_with("___IMPORT_DESCRIPTOR_");
      }))
    where = ".idata$6";
  if (defines([](auto name) { return name.ends_with("_iname"); })) where = ".idata$7";
  const Section* section = where.empty() ? nullptr : file.named(where);
  if (section == nullptr) return;
  const auto bytes = file.content(*section);
  const auto name = bytes ? bytes->terminated(0) : std::nullopt;
  if (name && !name->empty()) image.soname = *name;
}

bool has_link_time_sections(const File& file) {
  return std::any_of(file.sections.begin(), file.sections.end(),
                     [](const Section& s) { return s.name.starts_with(gcc_lto::prefix); });
}

Result<bool> read_link_time_symbols(const File& file, Image& image) {
  if (!has_link_time_sections(file)) return true;
  const auto is_mark = [](const ImageSymbol& s) { return s.name == gcc_lto::slim_mark || s.name == "___gnu_lto_slim"; };
  if (std::none_of(image.symbols.begin(), image.symbols.end(), is_mark)) return true;
  image.target.format = Format::gcc_lto;
  image.symbols.clear();
  for (const auto& section : file.sections) {
    if (!section.name.starts_with(gcc_lto::symbol_table)) continue;
    auto bytes = file.content(section);
    if (!bytes) return pass(bytes);
    return gcc_lto::read_symbols(*bytes, Order::little, image);
  }
  return true;
}

Image outline(const File& file) {
  Image image;
  image.type = ImageType::object;
  image.machine = file.machine;
  image.flags = file.characteristics;
  image.target = {.format = Format::coff, .arch = arch_of(file.machine), .bits = bits_of(arch_of(file.machine))};
  const bool imports = std::any_of(file.sections.begin(), file.sections.end(),
                                   [](const Section& s) { return s.name.starts_with(".idata$"); });
  if (imports) image.type = ImageType::import_member;
  if (file.whole_program) image.link_time = LinkTimeCode{.maker = LinkTimeCode::Maker::msvc};
  return image;
}

void list_sections(const File& file, Image& image) {
  for (const auto& section : file.sections) {
    const bool kept = (section.flags & (in_memory_discardable | removed)) == 0;
    image.sections.push_back({section.name, section.size, kept});
  }
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

std::vector<std::string_view> split_directives(std::string_view text) {
  constexpr std::string_view blanks(" \t\r\n\0", 5);
  if (text.starts_with("\xef\xbb\xbf")) text.remove_prefix(3);  // marked as UTF-8
  std::vector<std::string_view> options;
  while (true) {
    const size_t start = text.find_first_not_of(blanks);
    if (start == std::string_view::npos) return options;
    text.remove_prefix(start);
    bool quoted = false;
    size_t end = 0;
    for (; end < text.size() && (quoted || blanks.find(text[end]) == std::string_view::npos); ++end) {
      if (text[end] == '"') quoted = !quoted;
    }
    options.push_back(text.substr(0, end));
    text.remove_prefix(end);
  }
}

void read_debug(const File& file, Image& image) {
  const auto part = [&](std::string_view name) {
    const Section* section = file.named(name);
    return section == nullptr ? Bytes() : file.content(*section).value_or(Bytes());
  };
  const dwarf::Sections sections{.info = part(".debug_info"),
                                 .abbreviations = part(".debug_abbrev"),
                                 .strings = part(".debug_str"),
                                 .line_strings = part(".debug_line_str"),
                                 .string_offsets = part(".debug_str_offsets")};
  image.debug_info = !sections.info.empty() || file.named(".debug$S") != nullptr || image.debug_info;
  if (!sections.info.empty()) image.debug = dwarf::first_unit(sections);
}

bool recognises(Bytes bytes) {
  if (is_import_member(bytes) || has_class(bytes, big_object_class) || has_class(bytes, whole_program_class))
    return true;
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

Result<Image> read(Bytes bytes, unsigned want) {
  if (is_import_member(bytes)) return read_import_member(bytes);
  auto file = read_file(bytes);
  if (!file) return pass(file);
  Image image = outline(*file);
  if ((want & want_sections) != 0) list_sections(*file, image);
  if ((want & (want_symbols | want_notes)) != 0) {
    if (auto done = read_symbols(*file, image); !done) return pass(done);
    if (auto done = read_link_time_symbols(*file, image); !done) return pass(done);
    find_library_name(*file, image);
  }
  if ((want & want_notes) != 0) {
    if (auto done = read_notes(*file, image); !done) return pass(done);
    image.compiler_id = compiler_id(*file);
  }
  if ((want & want_debug) != 0) read_debug(*file, image);
  return image;
}

Result<bool> walk(Bytes bytes, const SymbolSink& sink) {
  if (!is_import_member(bytes)) {
    auto file = read_file(bytes);
    if (!file) return pass(file);
    if (!has_link_time_sections(*file)) return walk_symbols(*file, sink);
  }
  auto image = read(bytes, want_symbols);
  if (!image) return pass(image);
  for (const auto& symbol : image->symbols) sink(symbol);
  return true;
}

}  // namespace fibula::coff
