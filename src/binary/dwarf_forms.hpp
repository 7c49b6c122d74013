/// How DWARF lays its entries out: units, abbreviations, and the forms of attributes' values (version 5, section 7.5).
#pragma once

#include "binary/dwarf.hpp"

#include <vector>

namespace fibula::dwarf {

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
