/// ELF notes (gABI chapter 5, "Note Section"): build id and least system; and the producers' lines in .comment.
#include "binary/elf.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula::elf {
namespace {

constexpr size_t most_producers = 64;  // compilers that had a hand in one file
constexpr uint32_t nt_gnu_abi_tag = 1, nt_gnu_build_id = 3;

std::string hexadecimal(Bytes bytes) {
  std::string text;
  for (const char c : bytes.text()) text += fmt::format("{:02x}", static_cast<unsigned char>(c));
  return text;
}

/// NT_GNU_ABI_TAG: four words, the system and its least version.
RecordedSystem system_of(Bytes description, Order order) {
  static constexpr std::string_view systems[] = {"linux", "hurd", "solaris", "freebsd", "netbsd", "syllable", "nacl"};
  Cursor c(description, order, "ABI tag");
  const uint32_t system = c.u32(), major = c.u32(), minor = c.u32(), patch = c.u32();
  if (!c || system >= std::size(systems)) return {};
  return {std::string(systems[system]), fmt::format("{}.{}.{}", major, minor, patch), "note NT_GNU_ABI_TAG"};
}

uint64_t padded(uint64_t size) {
  return (size + 3) / 4 * 4;
}

/// Nothing needs a note to link or run: where one has not the form of notes, the rest of its section is not read. Some
/// compilers keep texts of their own in such sections.
void read_note_area(const File& file, Bytes area, Image& image) {
  uint64_t at = 0;
  while (area.size() - at >= 12) {
    const auto header = area.slice(at, 12, "note");
    if (!header) return;
    Cursor c(*header, file.order, "note");
    const uint32_t name_size = c.u32(), size = c.u32(), type = c.u32();
    const auto name = area.slice(at + 12, name_size, "note name");
    const auto description = area.slice(at + 12 + padded(name_size), size, "note description");
    if (!name || !description) {
      image.odd_notes = true;
      return;
    }
    if (name->starts_with("GNU")) {
      if (type == nt_gnu_build_id) image.build_id = hexadecimal(*description);
      if (type == nt_gnu_abi_tag) image.system = system_of(*description, file.order);
    }
    if (name->starts_with("Android") && type == 1) {
      Cursor level(*description, file.order, "API level");
      if (const uint32_t number = level.u32(); level)
        image.system = {"android", fmt::format("{}", number), "note of Android"};
    }
    at += 12 + padded(name_size) + padded(size);
    if (at > area.size()) break;
  }
}

}  // namespace

Result<void> read_notes(const File& file, Image& image) {
  Budget budget(file.bytes);
  for (const uint32_t index : file.distinct) {
    const Section& section = file.sections[index];
    if (section.type != sht_note) continue;
    auto area = file.content(section);
    if (!area) return pass(area);
    if (!budget.spend(area->size())) return fail(Budget::exceeded(*area, "note section"));
    read_note_area(file, *area, image);
  }
  for (const auto& segment : file.segments) {
    if (segment.type != pt_note || !file.sections.empty()) continue;
    auto area = file.bytes.slice(segment.offset, segment.file_size, "note segment");
    if (!area) return pass(area);
    read_note_area(file, *area, image);
  }
  const Section* comment = file.named(".comment");
  if (comment == nullptr) return {};
  auto bytes = file.content(*comment);
  if (!bytes) return pass(bytes);
  for (uint64_t at = 0; at < bytes->size();) {
    const auto rest = bytes->text().substr(at);
    const auto line = rest.substr(0, rest.find('\0'));
    const bool known = std::find(image.producers.begin(), image.producers.end(), line) != image.producers.end();
    if (!line.empty() && !known && image.producers.size() < most_producers) image.producers.push_back(line);
    at += line.size() + 1;
  }
  return {};
}

}  // namespace fibula::elf
