/// The debug sections of an ELF file, handed to the DWARF reader.
#include "binary/dwarf.hpp"
#include "binary/elf.hpp"

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

}  // namespace fibula::elf
