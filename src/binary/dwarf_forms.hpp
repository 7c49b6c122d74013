/// How DWARF lays its entries out: units, abbreviations, and the forms of attributes' values (version 5, section 7.5).
#pragma once

#include "binary/dwarf.hpp"

#include <vector>

namespace fibula::dwarf {

/// Attributes (table 7.5), in their order.
constexpr uint64_t at_sibling = 0x01, at_name = 0x03, at_byte_size = 0x0b, at_bit_offset = 0x0c, at_bit_size = 0x0d,
                   at_language = 0x13, at_comp_dir = 0x1b, at_const_value = 0x1c, at_producer = 0x25,
                   at_upper_bound = 0x2f, at_abstract_origin = 0x31, at_accessibility = 0x32, at_count = 0x37,
                   at_data_place = 0x38, at_declaration = 0x3c, at_encoding = 0x3e, at_external = 0x3f,
                   at_specification = 0x47, at_type = 0x49, at_virtuality = 0x4c, at_table_place = 0x4d,
                   at_signature = 0x69, at_data_bit_offset = 0x6b, at_linkage_name = 0x6e, at_string_base = 0x72,
                   at_mips_linkage_name = 0x2007, at_apple_optimised = 0x3fe1;

/// A unit's header (section 7.5.1). Offsets are of the section.
struct Unit {
  bool wide = false;  ///< 64-bit DWARF
  uint16_t version = 0;
  uint8_t type = 1;
  uint8_t address_size = 0;
  uint64_t abbreviations = 0;
  uint64_t signature = 0;    ///< of a type unit
  uint64_t type_offset = 0;  ///< of a type unit: its type's entry, from the unit's start
  uint64_t start = 0;
  uint64_t entry = 0;  ///< of its first entry
  uint64_t end = 0;

  bool holds_a_type() const { return type == 2 || type == 6; }
};
std::optional<Unit> read_unit(const Sections& sections, uint64_t at);

struct Attribute {
  uint64_t name = 0;
  uint64_t form = 0;
  int64_t implicit = 0;  ///< the value of DW_FORM_implicit_const, which stands in the abbreviation
};

/// What an entry's attributes are (section 7.5.3).
struct Abbreviation {
  uint64_t code = 0;
  uint64_t tag = 0;
  bool has_children = false;
  std::vector<Attribute> attributes;
};

/// Those of a unit, one after the other; nothing at their end or where they cannot be read.
class AbbreviationReader {
 public:
  AbbreviationReader(const Sections& sections, const Unit& unit);
  std::optional<Abbreviation> next();

 private:
  Cursor c_;
};

/// An attribute's value: a number, a place, or where its text is.
struct Value {
  enum class In { absent, number, here, strings, line_strings, indexed, unit_place, section_place, signature, block };
  In in = In::absent;
  uint64_t number = 0;
  std::string_view text = {};  ///< or the bytes of a block
};

/// Reads values (section 7.5.5), or passes over them; stops the cursor on a form that is not known.
class FormReader {
 public:
  /// `c` reads the section from the unit's first entry on.
  FormReader(const Sections& sections, const Unit& unit, Cursor& c) : sections_(sections), unit_(unit), c_(c) {}
  Value read(const Attribute& attribute);

 private:
  Value plain(uint64_t form);
  Value text(uint64_t form);
  uint64_t offset();
  Value bytes_of(uint64_t length);

  const Sections& sections_;
  const Unit& unit_;
  Cursor& c_;
};

/// The text of a value; empty where it has none. `string_base` is the unit's DW_AT_str_offsets_base, or zero.
std::string_view text_of(const Sections& sections, const Unit& unit, uint64_t string_base, const Value& value);

}  // namespace fibula::dwarf
