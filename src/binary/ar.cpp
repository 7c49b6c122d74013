#include "binary/ar.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <charconv>
#include <optional>

namespace fibula {
namespace {

constexpr uint64_t header_size = 60;
constexpr std::string_view magic = "!<arch>\n", thin_magic = "!<thin>\n";

/// A decimal field padded with spaces: the whole of it or nothing.
std::optional<uint64_t> decimal(std::string_view field) {
  while (field.ends_with(' ')) field.remove_suffix(1);
  uint64_t value = 0;
  const auto [end, error] = std::from_chars(field.data(), field.data() + field.size(), value);
  if (error != std::errc() || end != field.data() + field.size()) return std::nullopt;
  return value;
}

/// One header with what follows it, before its name is understood.
struct Entry {
  std::string_view name;  ///< the raw field, without the padding
  uint64_t header;
  uint64_t size;
  Bytes data;
};

/// The tables that serve the others, kept until all headers are known.
struct Tables {
  std::string_view long_names;
  std::optional<Entry> symbols;       ///< GNU and the first COFF one
  std::optional<Entry> coff_symbols;  ///< the second COFF one
  bool wide = false;
  bool bsd = false;
};

bool is_bsd_table(std::string_view name) {
  return name.starts_with("__.SYMDEF");
}
bool is_table(std::string_view name) {
  return name == "/" || name == "//" || name == "/SYM64/" || is_bsd_table(name);
}

Result<Entry> read_entry(Bytes file, uint64_t at, bool thin) {
  auto header = file.slice(at, header_size, "member header");
  if (!header) return pass(header);
  const std::string_view field = header->text();
  if (field.substr(58, 2) != "`\n") {
    return fail(file.error(Code::malformed, at + 58, "member header does not end with its mark"));
  }
  const auto size = decimal(field.substr(48, 10));
  if (!size) return fail(file.error(Code::malformed, at + 48, "member size is not a decimal number"));
  Entry entry{.name = field.substr(0, 16), .header = at, .size = *size, .data = {}};
  while (entry.name.ends_with(' ')) entry.name.remove_suffix(1);
  if (thin && !is_table(entry.name)) return entry;
  const auto data = file.slice(at + header_size, *size, "member");
  if (!data) {
    auto named = file.slice(at + header_size, *size, fmt::format("member {}", entry.name));
    return pass(named);
  }
  entry.data = *data;
  return entry;
}

/// BSD: `#1/20` says that the first 20 bytes of the data are the name, padded with zero bytes.
Result<bool> take_bsd_name(Bytes file, Entry& entry) {
  if (!entry.name.starts_with("#1/")) return false;
  const auto length = decimal(entry.name.substr(3));
  if (!length || *length > entry.data.size()) {
    return fail(file.error(Code::malformed, entry.header, "length of the member's name is wrong"));
  }
  const auto name = entry.data.text().substr(0, *length);
  entry.name = name.substr(0, name.find('\0'));
  auto rest = entry.data.from(*length, "member");
  if (!rest) return pass(rest);
  entry.data = *rest;
  return true;
}

/// GNU and COFF: `/123` is an offset into the table of long names, where a name ends with `/` and a line feed or a zero
/// byte.
Result<std::string_view> gnu_name(Bytes file, const Entry& entry, std::string_view long_names) {
  if (entry.name.size() < 2 || entry.name[0] != '/') {
    return entry.name.ends_with('/') ? entry.name.substr(0, entry.name.size() - 1) : entry.name;
  }
  const auto offset = decimal(entry.name.substr(1));
  if (!offset) return fail(file.error(Code::malformed, entry.header, "member name is neither a name nor an offset"));
  if (*offset >= long_names.size()) {
    return fail(file.error(
        Code::malformed, entry.header,
        fmt::format("member name is at {} of the long names, which have {} bytes", *offset, long_names.size())));
  }
  auto name = long_names.substr(*offset);
  name = name.substr(0, name.find_first_of(std::string_view("\n\0", 2)));
  return name.ends_with('/') ? name.substr(0, name.size() - 1) : name;
}

/// Keeps a table member; false when the entry is an ordinary member.
bool take_table(const Entry& entry, Tables& tables) {
  if (entry.name == "//") {
    tables.long_names = entry.data.text();
    return true;
  }
  if (!is_table(entry.name)) return false;
  tables.bsd = is_bsd_table(entry.name);
  tables.wide = entry.name == "/SYM64/" || entry.name.starts_with("__.SYMDEF_64");
  (tables.symbols && entry.name == "/" ? tables.coff_symbols : tables.symbols) = entry;
  return true;
}

Result<uint32_t> member_at(Bytes file, const Archive& archive, uint64_t header, std::string_view symbol) {
  const auto found = std::lower_bound(archive.members.begin(), archive.members.end(), header,
                                      [](const ArMember& member, uint64_t at) { return member.header < at; });
  if (found == archive.members.end() || found->header != header) {
    return fail(file.error(Code::malformed, header,
                           fmt::format("the symbol table puts {} here, where no member begins", symbol)));
  }
  return static_cast<uint32_t>(found - archive.members.begin());
}

/// Takes one name of a symbol table; false stops the walk.
using IndexSink = std::function<bool(std::string_view symbol, uint64_t header)>;

/// The next name in a run of them; nothing when it does not end.
std::optional<std::string_view> next_name(Bytes table, uint64_t& at) {
  const auto name = table.terminated(at);
  if (name) at += name->size() + 1;
  return name;
}

Error unfinished_name(Bytes table, uint64_t at) {
  return table.error(Code::malformed, std::min(at, table.size()),
                     "name in the archive symbol table does not end inside it");
}

/// GNU: a count, that many offsets, then as many names, all big-endian; four or eight bytes wide.
Result<bool> walk_gnu_index(const Entry& entry, bool wide, const IndexSink& sink) {
  Cursor c(entry.data, Order::big, "archive symbol table");
  const uint64_t count = c.word(wide), width = wide ? 8 : 4;
  if (count > c.left() / width) {
    return fail(entry.data.error(Code::truncated, 0,
                                 fmt::format("archive symbol table has {} entries, more than it has room for", count)));
  }
  uint64_t name_at = width + count * width;
  for (uint64_t i = 0; i < count; ++i) {
    const uint64_t header = c.word(wide);
    const auto name = next_name(entry.data, name_at);
    if (!name) return fail(unfinished_name(entry.data, name_at));
    if (!sink(*name, header)) return false;
  }
  return true;
}

/// COFF, second linker member: member offsets, then for each name the number of its member, all little-endian (PE/COFF
/// specification, "Second Linker Member").
Result<bool> walk_coff_index(const Entry& entry, const IndexSink& sink) {
  Cursor c(entry.data, Order::little, "second linker member");
  const uint32_t members = c.u32();
  if (members > c.left() / 4)
    return fail(entry.data.error(Code::truncated, 0, "second linker member has more members than room"));
  std::vector<uint32_t> offsets(members);
  for (auto& offset : offsets) offset = c.u32();
  const uint32_t count = c.u32();
  if (!c || count > c.left() / 2)
    return fail(entry.data.error(Code::truncated, 0, "second linker member has more names than room"));
  uint64_t name_at = c.position() + uint64_t{count} * 2;
  for (uint32_t i = 0; i < count; ++i) {
    const uint16_t number = c.u16();  // counted from one
    const auto name = next_name(entry.data, name_at);
    if (!name) return fail(unfinished_name(entry.data, name_at));
    if (number == 0 || number > members) {
      return fail(entry.data.error(Code::malformed, c.position() - 2,
                                   fmt::format("{} is in member {}, there are {}", *name, number, members)));
    }
    if (!sink(*name, offsets[number - 1U])) return false;
  }
  return true;
}

/// BSD ranlib: the size of an array of (name offset, member offset), the array, the size of the names, the names.
Result<bool> walk_bsd_index(const Entry& entry, bool wide, const IndexSink& sink) {
  Cursor c(entry.data, Order::little, "ranlib table");
  const uint64_t width = wide ? 8 : 4, size = c.word(wide);
  if (size > c.left() || size % (2 * width) != 0) {
    return fail(
        entry.data.error(Code::malformed, 0, fmt::format("ranlib table of {} bytes does not fit its member", size)));
  }
  auto names = entry.data.from(2 * width + size, "ranlib names");
  if (!names) return pass(names);
  for (uint64_t i = 0; i < size / (2 * width); ++i) {
    const uint64_t name_at = c.word(wide), header = c.word(wide);
    const auto name = names->terminated(name_at);
    if (!name) return fail(unfinished_name(*names, name_at));
    if (!sink(*name, header)) return false;
  }
  return true;
}

Result<bool> walk_tables(const Tables& tables, const IndexSink& sink) {
  if (!tables.symbols) return true;
  if (tables.bsd) return walk_bsd_index(*tables.symbols, tables.wide, sink);
  if (tables.coff_symbols) return walk_coff_index(*tables.coff_symbols, sink);
  return walk_gnu_index(*tables.symbols, tables.wide, sink);
}

Result<bool> read_index(Bytes file, const Tables& tables, Archive& archive) {
  std::optional<Error> stray;
  std::optional<uint64_t> last;  // names of one member mostly stand together
  uint32_t position = 0;
  auto walked = walk_tables(tables, [&](std::string_view symbol, uint64_t header) {
    if (header != last) {
      auto member = member_at(file, archive, header, symbol);
      if (!member) {
        stray = std::move(member.error());
        return false;
      }
      last = header;
      position = *member;
    }
    archive.index.push_back({symbol, position});
    return true;
  });
  if (stray) return fail(*stray);
  return walked;
}

/// One step of the walk over headers: tables are kept, names understood.
struct Step {
  Entry entry;
  uint64_t next = 0;
  bool table = false;
  bool bsd_name = false;
};

Result<Step> read_step(Bytes bytes, uint64_t at, bool thin, Tables& tables) {
  auto entry = read_entry(bytes, at, thin);
  if (!entry) return pass(entry);
  const bool stored = !thin || is_table(entry->name);
  Step step{.entry = *entry, .next = at + header_size + (stored ? entry->size + entry->size % 2 : 0)};
  auto bsd = take_bsd_name(bytes, step.entry);
  if (!bsd) return pass(bsd);
  step.bsd_name = *bsd;
  step.table = take_table(step.entry, tables);
  return step;
}

}  // namespace

bool is_archive(Bytes bytes) {
  return bytes.starts_with(magic) || bytes.starts_with(thin_magic);
}

namespace {

Result<Archive> read_headers(Bytes bytes, Tables& tables) {
  Archive archive;
  archive.thin = bytes.starts_with(thin_magic);
  uint64_t at = magic.size();
  while (at < bytes.size()) {
    if (bytes.size() - at == 1 && bytes.text()[at] == '\n') break;  // padding behind the last member
    auto step = read_step(bytes, at, archive.thin, tables);
    if (!step) return pass(step);
    at = step->next;
    if (step->bsd_name) archive.flavour = ArFlavour::bsd;
    if (step->table) continue;
    const Entry& entry = step->entry;
    auto name = step->bsd_name ? Result<std::string_view>(entry.name) : gnu_name(bytes, entry, tables.long_names);
    if (!name) return pass(name);
    archive.members.push_back({*name, entry.data, entry.header, entry.data.empty() ? entry.size : entry.data.size()});
  }
  if (tables.bsd) archive.flavour = ArFlavour::bsd;
  if (tables.coff_symbols) archive.flavour = ArFlavour::coff;
  archive.has_index = tables.symbols.has_value();
  return archive;
}

}  // namespace

Result<Archive> read_members(Bytes bytes) {
  Tables tables;
  return read_headers(bytes, tables);
}

Result<Archive> read_archive(Bytes bytes) {
  Tables tables;
  auto archive = read_headers(bytes, tables);
  if (!archive) return archive;
  if (auto read = read_index(bytes, tables, *archive); !read) return pass(read);
  return archive;
}

Result<uint64_t> walk_archive_index(Bytes bytes, const std::function<void(std::string_view, uint64_t)>& visit) {
  Tables tables;
  // Tables come first: the walk ends at the first ordinary member.
  for (uint64_t at = magic.size(); at < bytes.size();) {
    auto step = read_step(bytes, at, bytes.starts_with(thin_magic), tables);
    if (!step) return pass(step);
    if (!step->table) break;
    at = step->next;
  }
  uint64_t count = 0;
  auto walked = walk_tables(tables, [&](std::string_view symbol, uint64_t header) {
    ++count;
    visit(symbol, header);
    return true;
  });
  if (!walked) return pass(walked);
  return count;
}

}  // namespace fibula
