#include "binary/dwarf_forms.hpp"

namespace fibula::dwarf {
namespace {

constexpr uint8_t unit_skeleton = 4, unit_split_compile = 5;

Bytes rest_of(Bytes section, uint64_t at, std::string_view what) {
  return section.from(at, what).value_or(Bytes());
}

/// A number with a sign, seven bits a byte (section 7.6).
uint64_t signed_number(Cursor& c) {
  uint64_t value = 0;
  for (unsigned shift = 0; shift < 64; shift += 7) {
    const uint8_t byte = c.u8();
    value |= static_cast<uint64_t>(byte & 0x7fU) << shift;
    if ((byte & 0x80U) != 0) continue;
    const unsigned used = shift + 7;
    if ((byte & 0x40U) != 0 && used < 64) value |= ~uint64_t{0} << used;
    break;
  }
  return value;
}

}  // namespace

std::optional<Unit> read_unit(const Sections& sections, uint64_t at) {
  Cursor c(rest_of(sections.info, at, "unit"), sections.order, "unit");
  Unit unit;
  unit.start = at;
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
  if (unit.holds_a_type()) {
    unit.signature = c.u64();
    unit.type_offset = c.word(unit.wide);
  }
  unit.entry = at + c.position();
  if (!c || unit.version < 2 || unit.version > 5 || unit.entry > unit.end) return std::nullopt;
  return unit;
}

AbbreviationReader::AbbreviationReader(const Sections& sections, const Unit& unit)
    : c_(rest_of(sections.abbreviations, unit.abbreviations, "abbreviations"), sections.order, "abbreviations") {}

std::optional<Abbreviation> AbbreviationReader::next() {
  constexpr uint64_t implicit_const = 0x21;
  Abbreviation read;
  read.code = c_.uleb128();
  if (!c_ || read.code == 0) return std::nullopt;
  read.tag = c_.uleb128();
  read.has_children = c_.u8() != 0;
  for (;;) {
    Attribute attribute{.name = c_.uleb128(), .form = c_.uleb128()};
    if (attribute.form == implicit_const) attribute.implicit = static_cast<int64_t>(signed_number(c_));
    if (!c_) return std::nullopt;
    if (attribute.name == 0 && attribute.form == 0) return read;
    read.attributes.push_back(attribute);
  }
}

uint64_t FormReader::offset() {
  const uint64_t at = unit_.entry + c_.position();
  return sections_.relocated(Part::info, at, c_.word(unit_.wide));
}

Value FormReader::bytes_of(uint64_t length) {
  const uint64_t at = unit_.entry + c_.position();
  c_.skip(length);
  if (!c_) return {};
  const auto bytes = sections_.info.slice(at, length, "block");
  return {.in = Value::In::block, .text = bytes ? bytes->text() : std::string_view()};
}

Value FormReader::read(const Attribute& attribute) {
  if (attribute.form == 0x21) return {.in = Value::In::number, .number = static_cast<uint64_t>(attribute.implicit)};
  const Value found = text(attribute.form);
  return found.in == Value::In::absent ? plain(attribute.form) : found;
}

Value FormReader::text(uint64_t form) {
  using enum Value::In;
  switch (form) {
    case 0x08: return {.in = here, .text = c_.c_string()};
    case 0x0e: return {.in = strings, .number = offset()};
    case 0x1f: return {.in = line_strings, .number = offset()};
    case 0x1a:
    case 0x1f02: return {.in = indexed, .number = c_.uleb128()};  // strx, GNU_str_index
    case 0x25: return {.in = indexed, .number = c_.u8()};
    case 0x26: return {.in = indexed, .number = c_.u16()};
    case 0x27: return {.in = indexed, .number = uint64_t{c_.u8()} | uint64_t{c_.u16()} << 8U};
    case 0x28: return {.in = indexed, .number = c_.u32()};
    default: return {};
  }
}

Value FormReader::plain(uint64_t form) {
  using enum Value::In;
  switch (form) {
    case 0x01: return unit_.address_size == 8 ? Value{.in = number, .number = c_.u64()} : bytes_of(unit_.address_size);
    case 0x03: return bytes_of(c_.u16());
    case 0x04: return bytes_of(c_.u32());
    case 0x09:
    case 0x18: return bytes_of(c_.uleb128());
    case 0x0a: return bytes_of(c_.u8());
    case 0x0b:
    case 0x0c:
    case 0x29: return {.in = number, .number = c_.u8()};  // data1, flag, addrx1
    case 0x05:
    case 0x2a: return {.in = number, .number = c_.u16()};  // data2, addrx2
    case 0x06:
    case 0x2c: return {.in = number, .number = c_.u32()};  // data4, addrx4
    case 0x07: return {.in = number, .number = c_.u64()};  // data8
    case 0x11: return {.in = unit_place, .number = c_.u8()};
    case 0x12: return {.in = unit_place, .number = c_.u16()};
    case 0x13: return {.in = unit_place, .number = c_.u32()};
    case 0x14: return {.in = unit_place, .number = c_.u64()};
    case 0x15: return {.in = unit_place, .number = c_.uleb128()};
    case 0x10:
      return {.in = section_place, .number = unit_.version < 3 && unit_.address_size == 8 ? c_.u64() : offset()};
    case 0x20: return {.in = signature, .number = c_.u64()};
    case 0x0d: return {.in = number, .number = signed_number(c_)};
    case 0x0f:
    case 0x1b:
    case 0x22:
    case 0x23:
    case 0x1f01: return {.in = number, .number = c_.uleb128()};  // udata, addrx, loclistx, rnglistx, GNU_addr_index
    case 0x17: return {.in = number, .number = offset()};        // sec_offset
    case 0x19: return {.in = number, .number = 1};               // flag_present
    case 0x1e: return bytes_of(16);
    // What lies in another file (ref_sup4, ref_sup8, strp_sup and GNU's forms of them) is passed over.
    case 0x1c: c_.u32(); return {};
    case 0x24: c_.u64(); return {};
    case 0x1d:
    case 0x1f20:
    case 0x1f21: c_.word(unit_.wide); return {};
    default: c_.skip(c_.left() + 1); return {};
  }
}

std::string_view text_of(const Sections& sections, const Unit& unit, uint64_t string_base, const Value& value) {
  switch (value.in) {
    case Value::In::here: return value.text;
    case Value::In::strings: return sections.strings.terminated(value.number).value_or("");
    case Value::In::line_strings: return sections.line_strings.terminated(value.number).value_or("");
    case Value::In::indexed: break;
    default: return {};
  }
  const uint64_t width = unit.wide ? 8 : 4, header = unit.wide ? 16 : 8;
  const uint64_t base = string_base == 0 ? header : string_base;
  if (value.number > sections.string_offsets.size() || base > sections.string_offsets.size()) return {};
  const auto field = sections.string_offsets.slice(base + value.number * width, width, "string offset");
  if (!field) return {};
  const uint64_t stored = Cursor(*field, sections.order, "string offset").word(unit.wide);
  const uint64_t at = sections.relocated(Part::string_offsets, base + value.number * width, stored);
  return sections.strings.terminated(at).value_or("");
}

}  // namespace fibula::dwarf
