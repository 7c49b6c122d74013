/// What the loader reads of an ELF file: the dynamic section (gABI chapter 5) and symbol versions (LSB Core, "Symbol
/// Versioning").
#include "binary/elf.hpp"
#include "binary/elf_versions.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula::elf {
namespace {

constexpr uint64_t dt_null = 0, dt_needed = 1, dt_hash = 4, dt_strtab = 5, dt_symtab = 6, dt_strsz = 10, dt_soname = 14,
                   dt_rpath = 15, dt_debug = 21, dt_runpath = 29, dt_gnu_hash = 0x6ffffef5, dt_versym = 0x6ffffff0,
                   dt_flags_1 = 0x6ffffffb, dt_verdef = 0x6ffffffc, dt_verdefnum = 0x6ffffffd, dt_verneed = 0x6ffffffe,
                   dt_verneednum = 0x6fffffff;
constexpr uint64_t df_1_nodeflib = 0x800, df_1_pie = 0x08000000;

/// The pieces of a dynamic file, found by sections where there are any, else as the loader finds them.
struct Parts {
  Table entries;
  Bytes strings;
  Versions needed;
  Versions defined;
  Table version_of;                                 ///< of each dynamic symbol
  std::vector<std::pair<uint64_t, uint64_t>> tags;  ///< in the file's order: some thirty, of which few are asked for

  /// The last value of a tag; null where it is not there.
  const uint64_t* tag(uint64_t wanted) const {
    const auto is_it = [&](const auto& one) { return one.first == wanted; };
    const auto found = std::find_if(tags.rbegin(), tags.rend(), is_it);
    return found == tags.rend() ? nullptr : &found->second;
  }
};

Result<void> take_entries(const File& file, Bytes bytes, Parts& parts) {
  auto entries = Table::of(bytes, file.wide ? 16 : 8, file.wide ? 16 : 8, file.order, "dynamic section");
  if (!entries) return pass(entries);
  parts.entries = *entries;
  for (uint64_t i = 0; i < entries->count(); ++i) {
    const uint64_t tag = (*entries)[i].word(0, file.wide);
    if (tag == dt_null) break;
    parts.tags.emplace_back(tag, (*entries)[i].word(file.wide ? 8 : 4, file.wide));
  }
  return {};
}

Result<Versions> versions_in(const File& file, const Section& section) {
  auto bytes = file.content(section);
  if (!bytes) return pass(bytes);
  if (section.link >= file.sections.size()) return Versions{};
  auto names = file.content(file.sections[section.link]);
  if (!names) return pass(names);
  return Versions{*bytes, *names, section.info};
}

Result<void> parts_by_section(const File& file, const Section& dynamic, Parts& parts) {
  auto bytes = file.content(dynamic);
  if (!bytes) return pass(bytes);
  if (auto taken = take_entries(file, *bytes, parts); !taken) return taken;
  if (dynamic.link < file.sections.size()) {
    auto strings = file.content(file.sections[dynamic.link]);
    if (!strings) return pass(strings);
    parts.strings = *strings;
  }
  for (const auto& [type, versions] : {std::pair{sht_gnu_verneed, &parts.needed}, {sht_gnu_verdef, &parts.defined}}) {
    const Section* section = file.first_of_type(type);
    if (section == nullptr) continue;
    auto found = versions_in(file, *section);
    if (!found) return pass(found);
    *versions = *found;
  }
  if (const Section* section = file.first_of_type(sht_gnu_versym)) {
    auto table = file.content(*section);
    if (!table) return pass(table);
    auto version_of = Table::of(*table, 2, 2, file.order, "symbol version table");
    if (!version_of) return pass(version_of);
    parts.version_of = *version_of;
  }
  return {};
}

Result<Bytes> tagged(const File& file, const Parts& parts, uint64_t tag, std::string_view what) {
  const uint64_t* address = parts.tag(tag);
  return address == nullptr ? Result<Bytes>(Bytes()) : file.at_address(*address, what);
}

uint64_t value_of(const Parts& parts, uint64_t tag) {
  const uint64_t* value = parts.tag(tag);
  return value == nullptr ? 0 : *value;
}

Result<void> parts_by_segment(const File& file, const Segment& dynamic, Parts& parts) {
  auto bytes = file.bytes.slice(dynamic.offset, dynamic.file_size, "dynamic segment");
  if (!bytes) return pass(bytes);
  if (auto taken = take_entries(file, *bytes, parts); !taken) return taken;
  auto strings = tagged(file, parts, dt_strtab, "dynamic string table");
  if (!strings) return pass(strings);
  auto sized = strings->slice(0, value_of(parts, dt_strsz), "dynamic string table");
  if (!sized) return pass(sized);
  parts.strings = *sized;
  auto needed = tagged(file, parts, dt_verneed, "needed versions");
  if (!needed) return pass(needed);
  parts.needed = {*needed, *sized, value_of(parts, dt_verneednum)};
  auto defined = tagged(file, parts, dt_verdef, "defined versions");
  if (!defined) return pass(defined);
  parts.defined = {*defined, *sized, value_of(parts, dt_verdefnum)};
  auto version_of = tagged(file, parts, dt_versym, "symbol version table");
  if (!version_of) return pass(version_of);
  auto table = Table::of(*version_of, 2, 2, file.order, "symbol version table");
  if (!table) return pass(table);
  parts.version_of = *table;
  return {};
}

Result<void> read_tags(const File& file, const Parts& parts, Image& image) {
  Budget budget(file.bytes);
  for (uint64_t i = 0; i < parts.entries.count(); ++i) {
    const Record entry = parts.entries[i];
    const uint64_t tag = entry.word(0, file.wide), value = entry.word(file.wide ? 8 : 4, file.wide);
    if (tag == dt_null) break;
    if (tag == dt_flags_1 && (value & df_1_pie) != 0) image.type = ImageType::pie_program;
    if (tag == dt_debug) image.debug_entry = true;
    if (tag == dt_flags_1) image.only_run_paths = (value & df_1_nodeflib) != 0;
    if (tag != dt_needed && tag != dt_soname && tag != dt_rpath && tag != dt_runpath) continue;
    auto name = parts.strings.c_string(value, "name in the dynamic section");
    if (!name) return pass(name);
    if (!budget.spend(name->size())) return fail(Budget::exceeded(parts.strings, "dynamic section"));
    if (tag == dt_needed) image.needs.push_back({.name = std::string(*name)});
    if (tag == dt_soname) image.soname = *name;
    if (tag != dt_rpath && tag != dt_runpath) continue;
    auto& paths = tag == dt_rpath ? image.rpath : image.runpath;
    for (const auto part : text::split(*name, ':')) paths.emplace_back(part);
  }
  return {};
}

/// A file without sections tells the number of its dynamic symbols only through a hash table (gABI "Hash Table";
/// GNU_HASH).
Result<uint64_t> symbol_count(const File& file, const Parts& parts) {
  if (parts.tag(dt_hash) != nullptr) {
    auto hash = tagged(file, parts, dt_hash, "symbol hash table");
    if (!hash) return pass(hash);
    Cursor c(*hash, file.order, "symbol hash table");
    c.u32();
    const uint32_t chains = c.u32();
    if (!c) return fail(c.error());
    return chains;
  }
  auto hash = tagged(file, parts, dt_gnu_hash, "GNU symbol hash table");
  if (!hash) return pass(hash);
  if (hash->empty()) return uint64_t{0};
  Cursor c(*hash, file.order, "GNU symbol hash table");
  const uint32_t buckets = c.u32(), first = c.u32(), filter = c.u32();
  c.skip(4 + uint64_t{filter} * (file.wide ? 8 : 4));
  uint32_t last = 0;
  for (uint32_t i = 0; i < buckets && c; ++i) last = std::max(last, c.u32());
  if (!c) return fail(c.error());
  if (last < first) return uint64_t{first};
  c.skip(uint64_t{last - first} * 4);
  while (c && (c.u32() & 1) == 0) ++last;
  if (!c) return fail(c.error());
  return uint64_t{last} + 1;
}

Result<void> walk_by_segment(const File& file, const Parts& parts, const VersionTable& versions,
                             const SymbolSink& sink) {
  auto count = symbol_count(file, parts);
  if (!count) return pass(count);
  auto bytes = tagged(file, parts, dt_symtab, "dynamic symbol table");
  if (!bytes) return pass(bytes);
  const uint64_t entry = file.wide ? 24 : 16;
  if (*count > bytes->size() / entry) {
    return fail(bytes->error(Code::truncated, 0,
                             fmt::format("dynamic symbol table has {} entries, more than its segment holds", *count)));
  }
  // The same reader serves, with a section made up for the place.
  File view = file;
  view.sections = {{.type = sht_dynsym,
                    .offset = bytes->origin() - file.bytes.origin(),
                    .size = *count * entry,
                    .link = 1,
                    .entry_size = entry},
                   {.type = 3, .offset = parts.strings.origin() - file.bytes.origin(), .size = parts.strings.size()}};
  return without_value(walk_symbols(view, view.sections[0], &versions, sink));
}

/// Whether an address of the dynamic section lies where a section says; true where that cannot be told.
bool lies_at(const File& file, const Parts& parts, uint64_t tag, uint64_t offset) {
  const auto place = tagged(file, parts, tag, "");
  return !place || place->empty() || place->origin() - file.bytes.origin() == offset;
}

/// A file with debug information alone keeps the segments' headers, and none of their content.
bool is_left_out(const File& file, const Segment& dynamic) {
  return std::any_of(file.sections.begin(), file.sections.end(), [&](const Section& section) {
    return section.type == sht_nobits && section.address == dynamic.address;
  });
}

/// Linkers write section headers and segments for one and the same content; other tools, and people, may change the one
/// and not the other. A loader reads the segments alone.
bool sections_lie(const File& file, const Section& dynamic, const Segment* segment) {
  if (segment == nullptr || segment->file_size == 0) return false;
  if (segment->offset != dynamic.offset) return true;
  Parts parts;
  const auto bytes = file.bytes.slice(segment->offset, segment->file_size, "dynamic segment");
  if (!bytes || !take_entries(file, *bytes, parts)) return false;
  const Section* symbols = file.first_of_type(sht_dynsym);
  const bool strings_match =
      dynamic.link >= file.sections.size() || lies_at(file, parts, dt_strtab, file.sections[dynamic.link].offset);
  return !strings_match || (symbols != nullptr && !lies_at(file, parts, dt_symtab, symbols->offset));
}

}  // namespace

Result<void> read_dynamic(const File& file, const SymbolSink* symbols, Image& image) {
  Parts parts;
  const Section* dynamic = file.first_of_type(sht_dynamic);
  const auto is_dynamic = [](const Segment& one) { return one.type == pt_dynamic; };
  const auto segments = std::find_if(file.segments.begin(), file.segments.end(), is_dynamic);
  const Segment* segment = segments == file.segments.end() ? nullptr : &*segments;
  if (dynamic == nullptr && segment != nullptr && is_left_out(file, *segment)) return {};
  image.sections_differ =
      dynamic != nullptr ? sections_lie(file, *dynamic, segment) : segment != nullptr && !file.sections.empty();
  if (image.sections_differ) dynamic = nullptr;
  if (dynamic == nullptr && segment == nullptr) return {};
  auto found = dynamic != nullptr ? parts_by_section(file, *dynamic, parts) : parts_by_segment(file, *segment, parts);
  if (!found) return found;
  if (auto read = read_tags(file, parts, image); !read) return read;
  VersionNames names;
  if (auto read = read_needed_versions(file, parts.needed, image, names); !read) return read;
  if (auto read = read_defined_versions(file, parts.defined, image, names); !read) return read;
  if (symbols == nullptr) return {};
  const Section* table = dynamic == nullptr ? nullptr : file.first_of_type(sht_dynsym);
  if (table == nullptr && dynamic != nullptr) return {};
  const VersionTable versions(parts.version_of, names);
  if (table == nullptr) return walk_by_segment(file, parts, versions, *symbols);
  return without_value(walk_symbols(file, *table, &versions, *symbols));
}

}  // namespace fibula::elf
