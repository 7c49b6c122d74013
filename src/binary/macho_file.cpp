#include "binary/macho_file.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula::macho {
namespace {

std::string_view fixed_text(Bytes bytes, uint64_t offset) {
  const auto field = bytes.text().substr(offset, 16);
  return field.substr(0, field.find('\0'));
}

Result<void> read_segment(File& file, const Command& command) {
  const bool wide = command.kind == lc_segment_64;
  Cursor c = file.cursor(command);
  c.skip(16 + (wide ? 16 : 8));  // name, address, size in memory
  const uint64_t offset = c.word(wide), length = c.word(wide);
  c.skip(8);  // protections
  const uint32_t count = c.u32();
  c.skip(4);
  if (!c) return fail(c.error());
  // Loaders map whole segments, whatever is read of them here.
  if (auto content = file.bytes.slice(offset, length, "segment"); !content) return pass(content);
  const uint64_t size = wide ? 80 : 68;
  auto bytes = command.bytes.slice(c.position(), count * size, "sections of a segment");
  if (!bytes) return pass(bytes);
  auto table = Table::of(*bytes, size, size, file.order, "sections of a segment");
  if (!table) return pass(table);
  for (uint64_t i = 0; i < table->count(); ++i) {
    const Record r = (*table)[i];
    file.sections.push_back({.segment = fixed_text(*bytes, i * size + 16),
                             .name = fixed_text(*bytes, i * size),
                             .size = wide ? r.u64(40) : r.u32(36),
                             .offset = r.u32(wide ? 48 : 40),
                             .flags = r.u32(wide ? 64 : 56)});
  }
  return {};
}

Result<void> read_commands(File& file, uint32_t count, uint32_t size) {
  auto area = file.bytes.slice(file.wide ? 32 : 28, size, "load commands");
  if (!area) return pass(area);
  uint64_t at = 0;
  for (uint32_t i = 0; i < count; ++i) {
    auto header = area->slice(at, 8, "load command");
    if (!header) return pass(header);
    Cursor c(*header, file.order, "load command");
    const uint32_t kind = c.u32(), length = c.u32();
    if (length < 8) {
      return fail(area->error(Code::malformed, at + 4,
                              fmt::format("load command says it has {} bytes, its header alone has 8", length)));
    }
    auto bytes = area->slice(at, length, "load command");
    if (!bytes) return pass(bytes);
    file.commands.push_back({kind, *bytes});
    if (kind == lc_segment || kind == lc_segment_64) {
      if (auto read = read_segment(file, file.commands.back()); !read) return read;
    }
    at += length;
  }
  return {};
}

}  // namespace

const Command* File::first(uint32_t kind) const {
  const auto found = std::find_if(commands.begin(), commands.end(), [&](const Command& c) { return c.kind == kind; });
  return found == commands.end() ? nullptr : &*found;
}

Result<Bytes> File::content(const Section& section) const {
  constexpr uint32_t type_mask = 0xff, zero_fill = 1, large_zero_fill = 0xc, thread_zero_fill = 0x12;
  const uint32_t type = section.flags & type_mask;
  if (type == zero_fill || type == large_zero_fill || type == thread_zero_fill) return Bytes();
  return bytes.slice(section.offset, section.size, section.name);
}

Result<File> read_file(Bytes bytes) {
  File file{.bytes = bytes};
  const auto magic = bytes.text().substr(0, 4);
  file.order = magic.starts_with("\xfe\xed") ? Order::big : Order::little;
  file.wide = magic == "\xfe\xed\xfa\xcf" || magic == "\xcf\xfa\xed\xfe";
  Cursor c(bytes, file.order, "Mach-O header");
  c.skip(4);
  file.cpu_type = c.u32();
  file.cpu_subtype = c.u32();
  file.file_type = c.u32();
  const uint32_t count = c.u32(), size = c.u32();
  file.flags = c.u32();
  if (file.wide) c.skip(4);
  if (!c) return fail(c.error());
  if (auto read = read_commands(file, count, size); !read) return pass(read);
  return file;
}

}  // namespace fibula::macho
