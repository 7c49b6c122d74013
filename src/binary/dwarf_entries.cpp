#include "binary/dwarf_entries.hpp"

#include <algorithm>

namespace fibula::dwarf {
namespace {

bool is_kept(uint64_t tag) {
  static constexpr uint16_t kept[] = {
      tag_array,      tag_class,       tag_enumeration,  tag_parameter,     tag_member,         tag_pointer,
      tag_reference,  tag_variadic,    tag_structure,    tag_function_type, tag_typedef,        tag_union,
      tag_namespace,  tag_inheritance, tag_subrange,     tag_base,          tag_member_pointer, tag_const,
      tag_enumerator, tag_function,    tag_variable,     tag_volatile,      tag_restrict,       tag_rvalue,
      tag_atomic,     tag_unspecified, tag_compile_unit, tag_partial_unit,  tag_type_unit};
  return std::find(std::begin(kept), std::end(kept), tag) != std::end(kept);
}

/// `DW_OP_plus_uconst N`, `DW_OP_constu N` or `DW_OP_const1u N`: what compilers write where a plain number would do.
std::optional<uint64_t> number_of(const Value& value, Order order) {
  if (value.in == Value::In::number) return value.number;
  if (value.in != Value::In::block || value.text.empty()) return std::nullopt;
  const auto* bytes = reinterpret_cast<const std::byte*>(value.text.data());
  Cursor c(Bytes({bytes, value.text.size()}), order, "expression");
  constexpr uint8_t plus_uconst = 0x23, constu = 0x10, const1u = 0x08;
  const uint8_t operation = c.u8();
  const uint64_t number = operation == plus_uconst || operation == constu ? c.uleb128()
                          : operation == const1u                          ? c.u8()
                                                                          : 0;
  const bool known = operation == plus_uconst || operation == constu || operation == const1u;
  return known && c && c.left() == 0 ? std::optional(number) : std::nullopt;
}

/// Reads one unit's entries.
class UnitReader {
 public:
  UnitReader(const Sections& sections, const Unit& unit, Bytes bytes, Entries& into)
      : sections_(sections),
        unit_(unit),
        c_(bytes, sections.order, "entries"),
        forms_(sections, unit, c_),
        into_(into) {
    AbbreviationReader reader(sections, unit);
    for (auto shape = reader.next(); shape; shape = reader.next()) {
      constexpr uint64_t most = 1U << 20U;  // compilers count them from one
      if (shape->code >= most) break;
      if (shape->code >= shapes_.size()) shapes_.resize(shape->code + 1);
      const auto code = shape->code;
      shapes_[code] = std::move(*shape);
    }
  }

  void read() {
    const auto first = static_cast<uint32_t>(into_.list.size());
    std::vector<uint32_t> open;  // of each level, the entry whose children are read
    // An entry can be one byte in the file, and is two hundred here.
    constexpr size_t most_entries = 8'000'000;
    while (c_ && c_.left() > 0 && into_.list.size() < most_entries) {
      const uint64_t offset = unit_.entry + c_.position();
      const uint64_t code = c_.uleb128();
      if (code == 0) {
        if (open.empty()) break;
        close(open.back());
        open.pop_back();
        if (open.empty()) break;
        continue;
      }
      if (code >= shapes_.size() || shapes_[code].code == 0) break;
      const Abbreviation& shape = shapes_[code];
      TypeEntry entry{.offset = offset, .tag = static_cast<uint16_t>(shape.tag)};
      const uint64_t sibling = attributes(shape, entry);
      if (!c_) break;
      if (!is_kept(shape.tag) || is_inside_function(shape.tag, open)) {
        if (shape.has_children) pass_over(sibling);
        continue;
      }
      entry.parent = open.empty() ? first : open.back();
      const auto index = static_cast<uint32_t>(into_.list.size());
      entry.end = index + 1;
      into_.list.push_back(entry);
      if (shape.has_children) open.push_back(index);
    }
    for (const uint32_t left : open) close(left);
    if (unit_.holds_a_type()) into_.types_by_signature.emplace(unit_.signature, unit_.start + unit_.type_offset);
  }

 private:
  /// A function's own types and data are nobody else's.
  bool is_inside_function(uint64_t tag, const std::vector<uint32_t>& open) const {
    return !open.empty() && into_.list[open.back()].tag == tag_function && tag != tag_parameter && tag != tag_variadic;
  }
  void close(uint32_t index) { into_.list[index].end = static_cast<uint32_t>(into_.list.size()); }

  /// Goes behind the children of an entry that is not kept: by its sibling where it names one.
  void pass_over(uint64_t sibling) {
    const uint64_t here = unit_.entry + c_.position();
    if (sibling > here && sibling <= unit_.end) {
      c_.skip(sibling - here);
      return;
    }
    for (int depth = 1; c_ && depth > 0;) {
      const uint64_t code = c_.uleb128();
      if (code == 0) {
        --depth;
        continue;
      }
      if (code >= shapes_.size() || shapes_[code].code == 0) {
        c_.skip(c_.left() + 1);
        return;
      }
      TypeEntry ignored;
      const uint64_t next = attributes(shapes_[code], ignored);
      if (!shapes_[code].has_children) continue;
      const uint64_t position = unit_.entry + c_.position();
      if (next > position && next <= unit_.end) {
        c_.skip(next - position);
      } else {
        ++depth;
      }
    }
  }

  /// No compiler writes names longer than these; a crafted file could give a million entries one of a megabyte.
  std::string_view short_text(const Value& value) const {
    constexpr size_t longest = 1U << 14U;
    const auto text = text_of(sections_, unit_, string_base_, value);
    return text.size() > longest ? std::string_view() : text;
  }

  uint64_t place_of(const Value& value) const {
    switch (value.in) {
      case Value::In::unit_place: return unit_.start + value.number;
      case Value::In::section_place: return value.number;
      default: return 0;
    }
  }

  uint64_t attributes(const Abbreviation& shape, TypeEntry& entry) {
    uint64_t sibling = 0;
    for (const auto& attribute : shape.attributes) {
      const Value value = forms_.read(attribute);
      if (!c_) return 0;
      if (attribute.name == at_sibling) sibling = place_of(value);
      keep(attribute.name, value, entry);
    }
    return sibling;
  }

  void keep(uint64_t attribute, const Value& value, TypeEntry& entry) {
    const auto number = [&] { return number_of(value, sections_.order); };
    switch (attribute) {
      case at_string_base: string_base_ = value.number; break;
      case at_name: entry.name = short_text(value); break;
      case at_linkage_name:
      case at_mips_linkage_name: entry.linkage_name = short_text(value); break;
      case at_byte_size: entry.size = value.number; break;
      case at_bit_size: entry.bit_size = value.number; break;
      case at_bit_offset: entry.bits_from_top = true; [[fallthrough]];
      case at_data_bit_offset:
        entry.has_bit_place = true;
        entry.bit_place = value.number;
        break;
      case at_const_value: entry.value = number().value_or(0); break;
      case at_upper_bound:
        if (value.in == Value::In::number) entry.value = value.number + 1;
        break;
      case at_count: entry.value = value.in == Value::In::number ? value.number : 0; break;
      case at_data_place:
      case at_table_place: {
        const auto place = number();
        entry.has_place = place.has_value();
        entry.place = place.value_or(0);
        break;
      }
      case at_declaration: entry.declaration = value.number != 0; break;
      case at_external: entry.external = value.number != 0; break;
      case at_virtuality: entry.is_virtual = value.number != 0; break;
      case at_accessibility: entry.access = value.number; break;
      case at_encoding: entry.encoding = value.number; break;
      case at_specification:
      case at_abstract_origin: entry.specification = place_of(value); break;
      case at_type:
      case at_signature:
        if (value.in == Value::In::signature) entry.signature = value.number;
        if (attribute == at_type) entry.type = place_of(value);
        break;
      default: break;
    }
  }

  const Sections& sections_;
  const Unit& unit_;
  Cursor c_;
  FormReader forms_;
  Entries& into_;
  uint64_t string_base_ = 0;
  std::vector<Abbreviation> shapes_;
};

}  // namespace

const TypeEntry* Entries::at(uint64_t offset) const {
  const auto found = std::lower_bound(list.begin(), list.end(), offset,
                                      [](const TypeEntry& entry, uint64_t at) { return entry.offset < at; });
  return found != list.end() && found->offset == offset ? &*found : nullptr;
}

const TypeEntry* Entries::type_of(const TypeEntry& entry) const {
  if (entry.signature == 0) return entry.type == 0 ? nullptr : at(entry.type);
  const auto found = types_by_signature.find(entry.signature);
  return found == types_by_signature.end() ? nullptr : at(found->second);
}

namespace {

std::optional<Bytes> entries_of(const Sections& sections, const Unit& unit) {
  const auto bytes = sections.info.slice(unit.entry, unit.end - unit.entry, "entries");
  return bytes ? std::optional(*bytes) : std::nullopt;
}

template <class Visit>
void each_unit(const Sections& sections, Visit&& visit) {
  for (uint64_t at = 0; at < sections.info.size();) {
    const auto unit = read_unit(sections, at);
    if (!unit) return;
    at = unit->end;
    if (const auto bytes = entries_of(sections, *unit)) visit(*unit, *bytes);
  }
}

/// Whether an entry of the unit may name one of another unit, as link-time optimisers and type units have it.
bool looks_elsewhere(const Sections& sections, const Unit& unit) {
  constexpr uint64_t ref_addr = 0x10, ref_sig8 = 0x20;
  AbbreviationReader reader(sections, unit);
  for (auto shape = reader.next(); shape; shape = reader.next()) {
    for (const auto& attribute : shape->attributes) {
      if (attribute.form == ref_addr || attribute.form == ref_sig8) return true;
    }
  }
  return false;
}

}  // namespace

void read_entries(const Sections& sections, const std::function<void(const Entries&)>& visit) {
  bool together = false;
  each_unit(sections, [&](const Unit& unit, Bytes) { together = together || looks_elsewhere(sections, unit); });
  Entries entries;
  each_unit(sections, [&](const Unit& unit, Bytes bytes) {
    UnitReader(sections, unit, bytes, entries).read();
    if (together) return;
    visit(entries);
    entries.list.clear();
  });
  if (together) visit(entries);
}

}  // namespace fibula::dwarf
