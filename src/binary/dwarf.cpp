#include "binary/dwarf.hpp"

#include <vector>

namespace fibula::dwarf {
namespace {

constexpr uint64_t at_name = 0x03, at_language = 0x13, at_comp_dir = 0x1b, at_producer = 0x25,
                   at_str_offsets_base = 0x72, at_apple_optimised = 0x3fe1;

/// A unit's header (section 7.5.1).
struct Unit {
  bool wide = false;  ///< 64-bit DWARF
  uint16_t version = 0;
  uint8_t type = 1;
  uint8_t address_size = 0;
  uint64_t abbreviations = 0;
  uint64_t entry = 0;  ///< offset of its first entry
  uint64_t end = 0;
};

constexpr uint8_t unit_type = 2, unit_skeleton = 4, unit_split_compile = 5, unit_split_type = 6;

std::optional<Unit> read_unit(const Sections& sections, uint64_t at) {
  const auto rest = sections.info.from(at, "unit");
  if (!rest) return std::nullopt;
  Cursor c(*rest, sections.order, "unit");
  Unit unit;
  uint64_t length = c.u32();
  if (length == 0xffffffff) {
    unit.wide = true;
    length = c.u64();
  }
  if (!c || length > c.left()) return std::nullopt;
  unit.end = at + c.position() + length;
  unit.version = c.u16();
  const bool modern = unit.version >= 5;
  if (modern) {
    unit.type = c.u8();
    unit.address_size = c.u8();
  }
  const uint64_t field = at + c.position();
  unit.abbreviations = sections.relocated(Part::info, field, c.word(unit.wide));
  if (!modern) unit.address_size = c.u8();
  if (unit.type == unit_skeleton || unit.type == unit_split_compile) c.u64();
  if (unit.type == unit_type || unit.type == unit_split_type) c.skip(unit.wide ? 16 : 12);
  unit.entry = at + c.position();
  if (!c || unit.version < 2 || unit.version > 5) return std::nullopt;
  return unit;
}

struct Attribute {
  uint64_t name = 0;
  uint64_t form = 0;
};

/// The attributes of the abbreviation with this code (section 7.5.3).
std::optional<std::vector<Attribute>> abbreviation(const Sections& sections, const Unit& unit, uint64_t code) {
  const auto rest = sections.abbreviations.from(unit.abbreviations, "abbreviations");
  if (!rest) return std::nullopt;
  Cursor c(*rest, sections.order, "abbreviations");
  while (c) {
    const uint64_t here = c.uleb128();
    if (here == 0) return std::nullopt;
    c.uleb128();  // tag
    c.u8();       // has children
    std::vector<Attribute> attributes;
    for (;;) {
      const Attribute attribute{c.uleb128(), c.uleb128()};
      if (attribute.form == 0x21) c.uleb128();  // DW_FORM_implicit_const: the value stands here
      if (!c || (attribute.name == 0 && attribute.form == 0)) break;
      attributes.push_back(attribute);
    }
    if (here == code && c) return attributes;
  }
  return std::nullopt;
}

/// An attribute's value: a number, an offset, or where its text is.
struct Value {
  enum class In { number, here, strings, line_strings, indexed } in = In::number;
  uint64_t number = 0;
  std::string_view text = {};
};

/// Reads a value (section 7.5.5), or passes over it; stops the cursor on a form that is not known.
class FormReader {
 public:
  FormReader(const Sections& sections, const Unit& unit, Cursor& c) : sections_(sections), unit_(unit), c_(c) {}

  Value read(uint64_t form) {
    switch (form) {
      case 0x08: return {.in = Value::In::here, .text = c_.c_string()};  // string
      case 0x0e: return {.in = Value::In::strings, .number = offset()};  // strp
      case 0x1f: return {.in = Value::In::line_strings, .number = offset()};
      case 0x1a: return {.in = Value::In::indexed, .number = c_.uleb128()};  // strx
      case 0x25: return {.in = Value::In::indexed, .number = c_.u8()};
      case 0x26: return {.in = Value::In::indexed, .number = c_.u16()};
      case 0x27: return {.in = Value::In::indexed, .number = uint64_t{c_.u8()} | uint64_t{c_.u16()} << 8U};
      case 0x28: return {.in = Value::In::indexed, .number = c_.u32()};
      default: return {.number = number(form)};
    }
  }

 private:
  uint64_t offset() {
    const uint64_t at = unit_.entry + c_.position();
    return sections_.relocated(Part::info, at, c_.word(unit_.wide));
  }

  uint64_t block(uint64_t length) {
    c_.skip(length);
    return 0;
  }

  uint64_t number(uint64_t form) {
    switch (form) {
      case 0x01: return unit_.address_size == 8 ? c_.u64() : block(unit_.address_size);  // addr
      case 0x03: return block(c_.u16());                                                 // block2
      case 0x04: return block(c_.u32());                                                 // block4
      case 0x09:
      case 0x18: return block(c_.uleb128());  // block, exprloc
      case 0x0a: return block(c_.u8());       // block1
      case 0x0b:
      case 0x0c:
      case 0x11:
      case 0x29: return c_.u8();  // data1, flag, ref1, addrx1
      case 0x05:
      case 0x12:
      case 0x2a: return c_.u16();  // data2, ref2, addrx2
      case 0x06:
      case 0x13:
      case 0x1c:
      case 0x2c: return c_.u32();  // data4, ref4, ref_sup4, addrx4
      case 0x07:
      case 0x14:
      case 0x20:
      case 0x24: return c_.u64();  // data8, ref8, ref_sig8, ref_sup8
      case 0x0d:
      case 0x0f:
      case 0x15:
      case 0x1b:
      case 0x22:
      case 0x23: return c_.uleb128();  // sdata (skipped), udata, ref_udata, addrx, loclistx, rnglistx
      case 0x10:
      case 0x17:
      case 0x1d: return offset();  // ref_addr, sec_offset, strp_sup
      case 0x19: return 1;         // flag_present
      case 0x1e: return block(16);
      case 0x21: return 0;  // implicit_const: in the abbreviation
      default: return block(c_.left() + 1);
    }
  }

  const Sections& sections_;
  const Unit& unit_;
  Cursor& c_;
};

/// The texts and numbers of a unit's first entry, before texts are looked up.
struct Entry {
  Value name, folder, producer;
  uint64_t language = 0, string_base = 0;
  bool optimised = false;
};

void keep(Entry& entry, uint64_t attribute, const Value& value) {
  switch (attribute) {
    case at_name: entry.name = value; break;
    case at_comp_dir: entry.folder = value; break;
    case at_producer: entry.producer = value; break;
    case at_language: entry.language = value.number; break;
    case at_str_offsets_base: entry.string_base = value.number; break;
    case at_apple_optimised: entry.optimised = value.number != 0; break;
    default: break;
  }
}

std::string_view text_of(const Sections& sections, const Unit& unit, const Entry& entry, const Value& value) {
  switch (value.in) {
    case Value::In::number: return {};
    case Value::In::here: return value.text;
    case Value::In::strings: return sections.strings.terminated(value.number).value_or("");
    case Value::In::line_strings: return sections.line_strings.terminated(value.number).value_or("");
    case Value::In::indexed: break;
  }
  const uint64_t width = unit.wide ? 8 : 4, header = unit.wide ? 16 : 8;
  const uint64_t base = entry.string_base == 0 ? header : entry.string_base;
  if (value.number > sections.string_offsets.size() || base > sections.string_offsets.size()) return {};
  const auto field = sections.string_offsets.slice(base + value.number * width, width, "string offset");
  if (!field) return {};
  const uint64_t stored = Cursor(*field, sections.order, "string offset").word(unit.wide);
  const uint64_t at = sections.relocated(Part::string_offsets, base + value.number * width, stored);
  return sections.strings.terminated(at).value_or("");
}

std::optional<DebugRecord> record_of(const Sections& sections, const Unit& unit) {
  const auto bytes = sections.info.slice(unit.entry, unit.end > unit.entry ? unit.end - unit.entry : 0, "entry");
  if (!bytes) return std::nullopt;
  Cursor c(*bytes, sections.order, "entry");
  const auto attributes = abbreviation(sections, unit, c.uleb128());
  if (!attributes) return std::nullopt;
  FormReader forms(sections, unit, c);
  Entry entry;
  for (const auto& attribute : *attributes) {
    const Value value = forms.read(attribute.form);
    if (!c) return std::nullopt;
    keep(entry, attribute.name, value);
  }
  return DebugRecord{.producer = text_of(sections, unit, entry, entry.producer),
                     .folder = text_of(sections, unit, entry, entry.folder),
                     .source = text_of(sections, unit, entry, entry.name),
                     .language = static_cast<uint16_t>(entry.language),
                     .version = unit.version,
                     .optimised = entry.optimised};
}

/// Linkers put the compiler's own start files first, and some compilers ship them with what debuggers need: those units
/// say how the compiler was built, not how the library was.
bool is_start_code(const DebugRecord& record) {
  if (record.source.starts_with("crt/")) return true;
  for (const auto part : {"mingw-w64-crt", "/libgcc", "/csu/", "/crt/"}) {
    if (record.source.find(part) != std::string_view::npos || record.folder.find(part) != std::string_view::npos)
      return true;
  }
  return false;
}

}  // namespace

std::optional<DebugRecord> first_unit(const Sections& sections) {
  constexpr int most_units = 256;  // start code comes first, and there is little of it
  uint64_t at = 0;
  for (int i = 0; i < most_units && at < sections.info.size(); ++i) {
    const auto unit = read_unit(sections, at);
    if (!unit) return std::nullopt;
    at = unit->end;  // behind the unit's own header, so the walk ends
    if (unit->type == unit_type || unit->type == unit_split_type) continue;
    const auto record = record_of(sections, *unit);
    if (!record || !is_start_code(*record)) return record;
  }
  return std::nullopt;
}

}  // namespace fibula::dwarf
