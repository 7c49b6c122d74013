/// ELF header, section table and segment table (gABI chapter 4 "ELF Header", "Sections"; chapter 5 "Program Header").
#include "binary/elf.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula::elf {
namespace {

constexpr uint16_t pn_xnum = 0xffff;

struct Counts {
  uint64_t section_offset, segment_offset;
  uint16_t segment_size, segments, section_size, sections, names;
};

Section read_section(const Record& r, bool wide) {
  Section s;
  s.name_at = r.u32(0);
  s.type = r.u32(4);
  s.flags = r.word(8, wide);
  s.address = wide ? r.u64(16) : r.u32(12);
  s.offset = wide ? r.u64(24) : r.u32(16);
  s.size = wide ? r.u64(32) : r.u32(20);
  s.link = r.u32(wide ? 40 : 24);
  s.info = r.u32(wide ? 44 : 28);
  s.entry_size = wide ? r.u64(56) : r.u32(36);
  return s;
}

/// The section table of `count` entries; more than 65,279 are counted in the first entry (gABI, "e_shnum").
Result<Table> section_table(const File& file, const Counts& counts) {
  const uint64_t least = file.wide ? 64 : 40;
  auto first = file.bytes.slice(counts.section_offset, least, "section header table");
  if (!first) return pass(first);
  uint64_t count = counts.sections;
  if (count == 0) {
    auto one = Table::of(*first, least, least, file.order, "section header table");
    if (!one) return pass(one);
    count = read_section((*one)[0], file.wide).size;
  }
  if (counts.section_size != 0 && count > file.bytes.size() / counts.section_size) {
    return fail(
        file.bytes.error(Code::truncated, counts.section_offset,
                         fmt::format("section header table has {} entries, more than the file can hold", count)));
  }
  auto bytes = file.bytes.slice(counts.section_offset, count * counts.section_size, "section header table");
  if (!bytes) return pass(bytes);
  return Table::of(*bytes, counts.section_size, least, file.order, "section header table");
}

Result<void> find_section_names(File& file, const Counts& counts) {
  const uint32_t index = counts.names == shn_xindex ? file.sections[0].link : counts.names;
  if (index == 0) return {};
  if (index >= file.sections.size()) {
    return fail(
        file.bytes.error(Code::malformed, 0,
                         fmt::format("section name table is section {}, there are {}", index, file.sections.size())));
  }
  auto names = file.content(file.sections[index]);
  if (!names) return pass(names);
  file.section_names = *names;
  return {};
}

bool is_distinct(const File& file, const Section& s) {
  if (file.type != et_rel) return true;
  const bool contents = s.type == sht_progbits || s.type == sht_nobits;
  return s.type != sht_rela && s.type != sht_rel && s.type != sht_group && !(contents && (s.flags & shf_alloc) != 0);
}

Result<void> read_sections(File& file, const Counts& counts) {
  if (counts.section_offset == 0) return {};
  auto table = section_table(file, counts);
  if (!table) return pass(table);
  file.sections.reserve(table->count());
  for (uint64_t i = 0; i < table->count(); ++i) {
    file.sections.push_back(read_section((*table)[i], file.wide));
    if (is_distinct(file, file.sections.back())) file.distinct.push_back(static_cast<uint32_t>(i));
  }
  if (file.sections.empty()) return {};
  return find_section_names(file, counts);
}

Result<void> read_segments(File& file, const Counts& counts) {
  uint64_t count = counts.segments;
  if (count == pn_xnum && !file.sections.empty()) count = file.sections[0].info;
  if (counts.segment_offset == 0 || count == 0) return {};
  auto bytes = file.bytes.slice(counts.segment_offset, count * counts.segment_size, "program header table");
  if (!bytes) return pass(bytes);
  const bool wide = file.wide;
  auto table = Table::of(*bytes, counts.segment_size, wide ? 56 : 32, file.order, "program header table");
  if (!table) return pass(table);
  for (uint64_t i = 0; i < table->count(); ++i) {
    const Record r = (*table)[i];
    file.segments.push_back({.type = r.u32(0),
                             .offset = wide ? r.u64(8) : r.u32(4),
                             .address = wide ? r.u64(16) : r.u32(8),
                             .load_address = wide ? r.u64(24) : r.u32(12),
                             .file_size = wide ? r.u64(32) : r.u32(16),
                             .memory_size = wide ? r.u64(40) : r.u32(20)});
    // Without sections nothing else tells that a file was cut off; files with debug information only keep the segments
    // of what they belong to, and their sections.
    const Segment& segment = file.segments.back();
    if (segment.type != pt_load || !file.sections.empty()) continue;
    if (auto content = file.bytes.slice(segment.offset, segment.file_size, "segment"); !content) return pass(content);
  }
  return {};
}

/// e_ident: class, byte order, version (gABI chapter 4, "ELF Identification").
Result<void> read_identification(File& file) {
  Cursor ident(file.bytes, Order::little, "ELF identification");
  ident.skip(4);
  const uint8_t word_class = ident.u8(), order = ident.u8(), version = ident.u8();
  file.os_abi = ident.u8();
  if (!ident) return fail(ident.error());
  if (word_class != 1 && word_class != 2) {
    return fail(file.bytes.error(Code::malformed, 4,
                                 fmt::format("ELF class is {}, expected 1 (32-bit) or 2 (64-bit)", word_class)));
  }
  if (order != 1 && order != 2) {
    return fail(file.bytes.error(Code::malformed, 5,
                                 fmt::format("ELF byte order is {}, expected 1 (little) or 2 (big)", order)));
  }
  if (version != 1)
    return fail(file.bytes.error(Code::malformed, 6, fmt::format("ELF version is {}, expected 1", version)));
  file.wide = word_class == 2;
  file.order = order == 2 ? Order::big : Order::little;
  return {};
}

}  // namespace

bool recognises(Bytes bytes) {
  return bytes.starts_with("\177ELF");
}

namespace {

struct Start {
  File file;
  Counts counts{};
};

Result<Start> read_start(Bytes bytes) {
  Start start{.file = {.bytes = bytes}};
  File& file = start.file;
  if (auto read = read_identification(file); !read) return pass(read);
  Cursor c(bytes, file.order, "ELF header");
  c.skip(16);
  file.type = c.u16();
  file.machine = c.u16();
  c.skip(4);          // e_version, said before
  c.word(file.wide);  // e_entry
  Counts& counts = start.counts;
  counts.segment_offset = c.word(file.wide);
  counts.section_offset = c.word(file.wide);
  file.flags = c.u32();
  c.skip(2);  // e_ehsize
  counts.segment_size = c.u16();
  counts.segments = c.u16();
  counts.section_size = c.u16();
  counts.sections = c.u16();
  counts.names = c.u16();
  if (!c) return fail(c.error());
  return start;
}

}  // namespace

Result<File> read_file(Bytes bytes) {
  auto start = read_start(bytes);
  if (!start) return pass(start);
  if (auto read = read_sections(start->file, start->counts); !read) return pass(read);
  if (auto read = read_segments(start->file, start->counts); !read) return pass(read);
  return std::move(start->file);
}

Result<File> read_loader_tables(Bytes bytes) {
  auto start = read_start(bytes);
  if (!start) return pass(start);
  if (auto read = read_segments(start->file, start->counts); !read) return pass(read);
  return std::move(start->file);
}

Result<std::optional<File>> read_symbol_sections(Bytes bytes) {
  auto start = read_start(bytes);
  if (!start) return pass(start);
  File& file = start->file;
  if (file.type != et_rel) return std::optional<File>();
  if (start->counts.section_offset == 0) return std::optional(std::move(file));
  auto table = section_table(file, start->counts);
  if (!table) return pass(table);
  for (uint64_t i = 0; i < table->count(); ++i) {
    if ((*table)[i].u32(4) != sht_symtab) continue;
    file.sections = {read_section((*table)[i], file.wide)};
    Section& symbols = file.sections.front();
    if (symbols.link >= table->count()) break;  // the walk tells that it leads nowhere
    file.sections.push_back(read_section((*table)[symbols.link], file.wide));
    file.sections.front().link = 1;
    break;
  }
  return std::optional(std::move(file));
}

Result<Bytes> File::content(const Section& section) const {
  if (section.type == sht_nobits) return Bytes();
  auto content = bytes.slice(section.offset, section.size, "section");
  if (content) return content;
  const auto name = name_of(section);
  return bytes.slice(section.offset, section.size, name && !name->empty() ? *name : "section");
}

Result<std::string_view> File::name_of(const Section& section) const {
  if (section_names.empty()) return std::string_view();
  return section_names.c_string(section.name_at, "section name");
}

const Section* File::first_of_type(uint32_t wanted) const {
  const auto found =
      std::find_if(distinct.begin(), distinct.end(), [&](uint32_t index) { return sections[index].type == wanted; });
  return found == distinct.end() ? nullptr : &sections[*found];
}

const Section* File::named(std::string_view name) const {
  const std::string_view names = section_names.text();
  // Compared in place: to look for the end of every name would cost more than all else that is asked of a file.
  const auto is_it = [&](uint32_t index) {
    const uint32_t at = sections[index].name_at;
    return at < names.size() && names.size() - at > name.size() && names[at + name.size()] == '\0' &&
           names.substr(at, name.size()) == name;
  };
  const auto found = std::find_if(distinct.begin(), distinct.end(), is_it);
  return found == distinct.end() ? nullptr : &sections[*found];
}

Result<Bytes> File::at_address(uint64_t address, std::string_view what) const {
  for (const auto& segment : segments) {
    if (segment.type != pt_load || address < segment.address || address - segment.address >= segment.file_size)
      continue;
    const uint64_t inside = address - segment.address;
    auto whole = bytes.slice(segment.offset, segment.file_size, what);
    if (!whole) return whole;
    return whole->from(inside, what);
  }
  return fail(
      bytes.error(Code::malformed, 0, fmt::format("{} is at address {:#x}, which no segment loads", what, address)));
}

}  // namespace fibula::elf
