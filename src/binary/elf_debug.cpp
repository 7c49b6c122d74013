/// The debug sections of an ELF file, handed to the DWARF reader.
#include "binary/dwarf.hpp"
#include "binary/elf.hpp"
#include "os/expand.hpp"

#include <algorithm>

namespace fibula::elf {
namespace {

constexpr uint64_t shf_compressed = 0x800;

/// Empty where the section is not there, is compressed or lies outside of the file: nothing is known then.
Bytes debug_section(const File& file, const Section* section) {
  if (section == nullptr || (section->flags & shf_compressed) != 0) return {};
  return file.content(*section).value_or(Bytes());
}

}  // namespace

Result<void> read_debug(const File& file, Image& image) {
  const Section* info = file.named(".debug_info");
  image.debug_info = info != nullptr || file.named(".zdebug_info") != nullptr;
  if (info == nullptr) return {};
  const Section* offsets = file.named(".debug_str_offsets");
  const dwarf::Sections sections{
      .info = debug_section(file, info),
      .abbreviations = debug_section(file, file.named(".debug_abbrev")),
      .strings = debug_section(file, file.named(".debug_str")),
      .line_strings = debug_section(file, file.named(".debug_line_str")),
      .string_offsets = debug_section(file, offsets),
      .order = file.order,
      .relocated = [&](dwarf::Part part, uint64_t at, uint64_t stored) {
        return relocated(file, part == dwarf::Part::info ? *info : *offsets, at).value_or(stored);
      }};
  image.debug = dwarf::first_unit(sections);
  return {};
}

namespace {

/// gABI chapter 4, "Section Compression": the header in front of a compressed section's bytes.
Result<Bytes> expanded(const File& file, Bytes section, dwarf::Expanded& keep) {
  constexpr uint32_t zlib = 1, zstd = 2;
  Cursor c(section, file.order, "compressed section");
  const uint32_t type = c.u32();
  if (file.wide) c.u32();
  const uint64_t size = c.word(file.wide);
  c.word(file.wide);  // alignment
  if (!c || (type != zlib && type != zstd)) return Bytes();
  auto rest = section.from(c.position(), "compressed section");
  if (!rest) return pass(rest);
  return keep.add(*rest, size, type == zlib ? Compression::zlib : Compression::zstd);
}

/// The form from before there were flags for it: "ZLIB" and the size, most significant byte first.
Result<Bytes> expanded_old(Bytes section, dwarf::Expanded& keep) {
  if (!section.starts_with("ZLIB")) return Bytes();
  Cursor c(section, Order::big, "compressed section");
  c.u32();
  const uint64_t size = c.u64();
  auto rest = section.from(c.position(), "compressed section");
  if (!c || !rest) return Bytes();
  return keep.add(*rest, size, Compression::zlib);
}

Result<Bytes> whole_section(const File& file, std::string_view name, dwarf::Expanded& keep) {
  const Section* section = file.named("." + std::string(name));
  if (section != nullptr) {
    const Bytes stored = file.content(*section).value_or(Bytes());
    return (section->flags & shf_compressed) == 0 ? Result<Bytes>(stored) : expanded(file, stored, keep);
  }
  section = file.named(".z" + std::string(name));
  return section == nullptr ? Bytes() : expanded_old(file.content(*section).value_or(Bytes()), keep);
}

using Fields = std::vector<std::pair<uint64_t, uint64_t>>;

uint64_t field_at(const Fields& fields, uint64_t at, uint64_t stored) {
  const auto found = std::lower_bound(fields.begin(), fields.end(), std::pair(at, uint64_t{0}));
  return found != fields.end() && found->first == at ? found->second : stored;
}

Fields fields_of(const File& file, std::string_view name) {
  const Section* section = file.named(name);
  return section == nullptr ? Fields() : relocated_fields(file, *section);
}

}  // namespace

Result<dwarf::Sections> debug_sections(Bytes bytes, dwarf::Expanded& keep) {
  auto file = read_file(bytes);
  if (!file) return pass(file);
  dwarf::Sections sections{.order = file->order};
  for (const auto& [name, into] :
       {std::pair("debug_info", &sections.info), std::pair("debug_abbrev", &sections.abbreviations),
        std::pair("debug_str", &sections.strings), std::pair("debug_line_str", &sections.line_strings),
        std::pair("debug_str_offsets", &sections.string_offsets)}) {
    auto content = whole_section(*file, name, keep);
    if (!content) return pass(content);
    *into = *content;
  }
  if (file->type != et_rel || sections.info.empty()) return sections;
  sections.relocated = [info = fields_of(*file, ".debug_info"), texts = fields_of(*file, ".debug_str_offsets")](
                           dwarf::Part part, uint64_t at, uint64_t stored) {
    return field_at(part == dwarf::Part::info ? info : texts, at, stored);
  };
  return sections;
}

}  // namespace fibula::elf
