/// The entries of `.debug_info` that describe types, functions and data, as a tree in one vector.
#pragma once

#include "binary/dwarf_forms.hpp"

#include <functional>
#include <string_view>
#include <unordered_map>
#include <vector>

namespace fibula::dwarf {

constexpr uint16_t tag_array = 0x01, tag_class = 0x02, tag_enumeration = 0x04, tag_parameter = 0x05, tag_member = 0x0d,
                   tag_pointer = 0x0f, tag_reference = 0x10, tag_compile_unit = 0x11, tag_structure = 0x13,
                   tag_function_type = 0x15, tag_typedef = 0x16, tag_union = 0x17, tag_variadic = 0x18,
                   tag_inheritance = 0x1c, tag_member_pointer = 0x1f, tag_subrange = 0x21, tag_base = 0x24,
                   tag_const = 0x26, tag_enumerator = 0x28, tag_function = 0x2e, tag_variable = 0x34,
                   tag_volatile = 0x35, tag_restrict = 0x37, tag_namespace = 0x39, tag_unspecified = 0x3b,
                   tag_partial_unit = 0x3c, tag_type_unit = 0x41, tag_rvalue = 0x42, tag_atomic = 0x47;

struct TypeEntry {
  uint64_t offset = 0;  ///< in the section
  uint16_t tag = 0;
  bool declaration = false, external = false, is_virtual = false;
  bool has_place = false;
  uint32_t parent = 0;
  uint32_t end = 0;  ///< the index behind its last descendant
  std::string_view name = {}, linkage_name = {};
  uint64_t type = 0;           ///< the offset of the entry of its type; zero: void
  uint64_t signature = 0;      ///< of its type, or of what it stands for, in a type unit
  uint64_t specification = 0;  ///< of the declaration that this completes
  uint64_t size = 0;           ///< bytes
  uint64_t place = 0;          ///< bytes from the start of what it is in; a slot of a virtual table
  uint64_t bit_size = 0, bit_place = 0;
  bool has_bit_place = false, bits_from_top = false;  ///< DW_AT_bit_offset counts from the most significant bit
  uint64_t value = 0;                                 ///< of an enumerator; the count of a subrange
  uint64_t encoding = 0;                              ///< of a base type
  uint64_t access = 0;  ///< of a member: 1 public, 2 protected, 3 private; zero: as its type has it by default
};

/// Entries in the order of the section; each unit's own entry is among them. What functions hold, but for their
/// parameters, is left out.
struct Entries {
  std::vector<TypeEntry> list;
  std::unordered_map<uint64_t, uint64_t> types_by_signature;  ///< offsets of the entries

  const TypeEntry* at(uint64_t offset) const;
  /// Null for void, and where the entry is not here.
  const TypeEntry* type_of(const TypeEntry& entry) const;
};
/// Unit by unit, or all units together where entries of one name those of another. They are lent for the call.
void read_entries(const Sections& sections, const std::function<void(const Entries&)>& visit);

}  // namespace fibula::dwarf
