#include "link/references.hpp"

#include "binary/coff_import.hpp"
#include "binary/coff_relocations.hpp"
#include "binary/coff_symbols.hpp"
#include "binary/elf.hpp"

namespace fibula {
namespace {

/// The sections that go with groups which an earlier object had brought.
std::vector<bool> dropped_sections(const std::vector<int32_t>& group_of_section, const std::vector<bool>& groups) {
  std::vector<bool> dropped(group_of_section.size());
  for (size_t i = 0; i < dropped.size(); ++i) {
    const int32_t group = group_of_section[i];
    dropped[i] = group >= 0 && static_cast<size_t>(group) < groups.size() && groups[static_cast<size_t>(group)];
  }
  return dropped;
}

Result<std::optional<std::string>> elf_place(const EnteredObject& entered, uint32_t symbol) {
  auto file = elf::read_file(entered.object->bytes);
  if (!file) return pass(file);
  auto groups = elf::read_groups(*file);
  if (!groups) return pass(groups);
  return elf::reference_to(*file, symbol, dropped_sections(groups->of_section, entered.dropped_groups));
}

Result<std::optional<std::string>> coff_place(const EnteredObject& entered, uint32_t symbol) {
  auto file = coff::read_file(entered.object->bytes);
  if (!file) return pass(file);
  auto groups = coff::groups_of_sections(*file);
  if (!groups) return pass(groups);
  return coff::reference_to(*file, symbol, dropped_sections(*groups, entered.dropped_groups));
}

}  // namespace

Result<std::optional<std::string>> place_of_reference(const EnteredObject& entered, uint32_t symbol) {
  const Image& image = entered.object->image;
  if (image.target.format == Format::elf) return elf_place(entered, symbol);
  if (image.target.format == Format::coff && !coff::is_import_member(entered.object->bytes))
    return coff_place(entered, symbol);
  return std::optional(std::string());
}

}  // namespace fibula
