#include "binary/dwarf_types.hpp"

#include "base/text.hpp"
#include "binary/dwarf_entries.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula::dwarf {
namespace {

/// "long unsigned int" and "unsigned long" are one type; compilers write it differently.
std::string arranged(std::string_view name) {
  const auto words = text::words(name);
  const auto count = [&](std::string_view word) { return std::count(words.begin(), words.end(), word); };
  if (count("int") + count("long") + count("short") == 0 || count("double") > 0) return std::string(name);
  std::string result = count("unsigned") > 0 ? "unsigned " : "";
  for (auto i = count("long"); i > 0; --i) result += "long ";
  if (count("short") > 0) result += "short ";
  if (count("long") + count("short") == 0) result += "int ";
  result.pop_back();
  return result;
}

/// What a base type is made of: its encoding (section 7.8) and size. A signed char and a plain one are passed alike.
std::string base_form(const TypeEntry& type) {
  constexpr uint64_t boolean = 2, complex = 3, floating = 4, signed_character = 6, unsigned_integer = 7,
                     unsigned_character = 8;
  switch (type.encoding) {
    case boolean: return fmt::format("b{}", type.size);
    case complex: return fmt::format("c{}", type.size);
    case floating: return fmt::format("f{}", type.size);
    case unsigned_integer:
    case unsigned_character: return fmt::format("u{}", type.size);
    case signed_character: return fmt::format("i{}", type.size);
    default: return fmt::format("i{}", type.size);
  }
}

bool is_layout(uint16_t tag) {
  return tag == tag_structure || tag == tag_class || tag == tag_union || tag == tag_enumeration;
}

class TypeReader {
 public:
  TypeReader(const Entries& entries, Order order, DebugTypes& into)
      : entries_(entries), big_(order == Order::big), into_(into), names_(entries.list.size()) {}

  void read() {
    name_anonymous();
    for (uint32_t i = 0; i < entries_.list.size(); ++i) {
      const TypeEntry& entry = entries_.list[i];
      if (is_layout(entry.tag) && !entry.declaration) keep_layout(i);
      if (entry.tag == tag_function && (entry.external || entry.specification != 0) && !entry.declaration)
        keep_function(i);
      if (entry.tag == tag_variable && entry.external) keep_variable(i);
    }
  }

 private:
  uint32_t index_of(const TypeEntry& entry) const { return static_cast<uint32_t>(&entry - entries_.list.data()); }

  template <class Do>
  void each_child(uint32_t parent, Do&& take) const {
    for (uint32_t i = parent + 1; i < entries_.list[parent].end; i = std::max(i + 1, entries_.list[i].end)) take(i);
  }

  /// `typedef struct { … } tide;` is known by the typedef's name.
  void name_anonymous() {
    for (const auto& entry : entries_.list) {
      if (entry.tag != tag_typedef) continue;
      const TypeEntry* type = entries_.type_of(entry);
      if (type != nullptr && type->name.empty() && is_layout(type->tag) && names_[index_of(*type)].empty())
        names_[index_of(*type)] = scoped(entry, entry.name);
    }
  }

  /// With the names of the namespaces and types that it is in.
  std::string scoped(const TypeEntry& entry, std::string_view name) const {
    std::string result(name);
    uint32_t at = entry.parent;
    for (int depth = 0; depth < 32; ++depth) {
      const TypeEntry& scope = entries_.list[at];
      const bool named = scope.tag == tag_namespace || is_layout(scope.tag);
      if (!named || scope.parent == at || &scope == &entry) break;
      result = fmt::format("{}::{}", scope.name.empty() ? "(anonymous)" : scope.name, result);
      at = scope.parent;
    }
    return result;
  }

  const std::string& name_of(uint32_t index) {
    std::string& name = names_[index];
    const TypeEntry& entry = entries_.list[index];
    if (name.empty() && !entry.name.empty()) name = scoped(entry, entry.name);
    return name;
  }

  TypeText text_of_type(const TypeEntry& holder, int depth = 0) {
    const TypeEntry* type = entries_.type_of(holder);
    if (type == nullptr) return holder.type == 0 && holder.signature == 0 ? TypeText{"void", "v"} : TypeText{"?", "?"};
    if (depth > 16) return {"?", "?"};
    const auto kept = texts_.find(type);
    if (kept != texts_.end()) return kept->second;
    TypeText made = made_text(*type, depth + 1);
    // Types of types of functions can be written in a few bytes and spelled in gigabytes.
    constexpr size_t longest = 1U << 16U;
    if (made.written.size() > longest || made.form.size() > longest) made = {"?", "?"};
    texts_.emplace(type, made);
    return made;
  }

  TypeText made_text(const TypeEntry& type, int depth) {
    const auto inner = [&] { return text_of_type(type, depth); };
    switch (type.tag) {
      case tag_base: return {arranged(type.name), base_form(type)};
      case tag_unspecified: return {std::string(type.name), "*"};  // decltype(nullptr)
      case tag_typedef: return {scoped(type, type.name), inner().form};
      case tag_const: {
        auto of = inner();
        return {of.written.ends_with('*') ? of.written + " const" : "const " + of.written, of.form};
      }
      case tag_volatile:
      case tag_restrict:
      case tag_atomic: return inner();
      case tag_pointer: return pointer(inner(), "*");
      case tag_reference: return pointer(inner(), "&");
      case tag_rvalue: return pointer(inner(), "&&");
      case tag_member_pointer: {
        auto of = inner();
        return {of.written + " (of a member)", "m" + of.form};
      }
      case tag_array: return array(type, inner());
      case tag_function_type: return function_text(type, depth);
      case tag_structure:
      case tag_class:
      case tag_union:
      case tag_enumeration: return named(type);
      default: return {"?", "?"};
    }
  }

  static TypeText pointer(TypeText to, const char* sign) {
    // "double (int)" -> "double (*)(int)"
    const size_t open = to.form.starts_with("F(") ? to.written.find('(') : std::string::npos;
    std::string written = open == std::string::npos
                              ? to.written + sign
                              : to.written.substr(0, open) + "(" + sign + ")" + to.written.substr(open);
    return {std::move(written), "*" + to.form};
  }

  TypeText named(const TypeEntry& type) {
    const std::string& name = name_of(index_of(type));
    // A type that nobody named counts as what holds it: its own members are compared there.
    if (name.empty()) return {"(unnamed)", fmt::format("n{}", type.size)};
    if (type.tag == tag_enumeration) return {name, fmt::format("e{}:{}", type.size, name)};
    return {name, "s:" + name};
  }

  TypeText array(const TypeEntry& type, const TypeText& of) {
    std::string bounds;
    each_child(index_of(type), [&](uint32_t i) {
      const TypeEntry& range = entries_.list[i];
      if (range.tag == tag_subrange) bounds += range.value == 0 ? "[]" : fmt::format("[{}]", range.value);
    });
    return {of.written + bounds, of.form + bounds};
  }

  TypeText function_text(const TypeEntry& type, int depth) {
    Signature signature = signature_of(type, depth);
    std::string written, form;
    for (const auto& parameter : signature.parameters) {
      written += (written.empty() ? "" : ", ") + parameter.written;
      form += parameter.form + ",";
    }
    if (signature.variadic) {
      written += written.empty() ? "..." : ", ...";
      form += "...";
    }
    return {fmt::format("{} ({})", signature.result.written, written),
            fmt::format("F({}){}", form, signature.result.form)};
  }

  Signature signature_of(const TypeEntry& function, int depth = 0) {
    Signature signature{.result = text_of_type(function, depth)};
    each_child(index_of(function), [&](uint32_t i) {
      const TypeEntry& parameter = entries_.list[i];
      if (parameter.tag == tag_variadic) signature.variadic = true;
      if (parameter.tag != tag_parameter) return;
      const TypeEntry* origin =
          parameter.type == 0 && parameter.specification != 0 ? entries_.at(parameter.specification) : nullptr;
      signature.parameters.push_back(text_of_type(origin == nullptr ? parameter : *origin, depth));
    });
    return signature;
  }

  void keep_layout(uint32_t index) {
    const std::string& name = name_of(index);
    // A template's instances and what lies in no named scope are not what a header promises by name.
    if (name.empty() || name.find("(anonymous)") != std::string::npos) return;
    // Each unit describes what it uses: another size tells another type of the same name, and is cheap to see.
    const auto [at, fresh] = into_.layouts.try_emplace(name);
    if (fresh) {
      at->second = layout_of(index);
    } else {
      at->second.several = at->second.several || at->second.size != entries_.list[index].size;
    }
  }

  Layout layout_of(uint32_t index) {
    const TypeEntry& entry = entries_.list[index];
    Layout layout{.kind = entry.tag == tag_union         ? LayoutKind::union_
                          : entry.tag == tag_enumeration ? LayoutKind::enumeration
                                                         : LayoutKind::structure,
                  .size = entry.size};
    add_members(index, 0, layout, 0);
    return layout;
  }

  /// Members of an unnamed structure or union inside are members of the outer one (C11, 6.7.2.1, paragraph 13).
  void add_members(uint32_t index, uint64_t start, Layout& layout, int depth) {
    each_child(index, [&](uint32_t i) {
      const TypeEntry& child = entries_.list[i];
      // A structure that holds itself without a name, several times, would never end.
      if (steps_ == 0) return;
      --steps_;
      switch (child.tag) {
        case tag_enumerator:
          layout.enumerators.push_back({std::string(child.name), static_cast<int64_t>(child.value)});
          break;
        case tag_inheritance: {
          const TypeText base = text_of_type(child);
          layout.members.push_back({.name = "base " + base.written, .type = base, .offset = start + child.place * 8});
          break;
        }
        case tag_member: add_member(child, start, layout, depth); break;
        case tag_function:
          note_access(entries_.list[index], child);
          if (child.is_virtual && child.has_place) layout.virtuals.push_back({virtual_name(child), child.place});
          break;
        default: break;
      }
    });
  }

  void note_access(const TypeEntry& holder, const TypeEntry& function) {
    constexpr uint64_t is_private = 3;
    const uint64_t access = function.access != 0 ? function.access : holder.tag == tag_class ? is_private : 1;
    if (access == is_private && !function.is_virtual && !function.linkage_name.empty())
      into_.private_functions.emplace(function.linkage_name);
  }

  void add_member(const TypeEntry& member, uint64_t start, Layout& layout, int depth) {
    if (member.declaration || (member.external && !member.has_place)) return;  // a static one
    const uint64_t at = start + offset_of(member);
    const TypeEntry* type = entries_.type_of(member);
    if (member.name.empty() && type != nullptr && is_layout(type->tag) && depth < 16) {
      add_members(index_of(*type), at, layout, depth + 1);
      return;
    }
    layout.members.push_back({std::string(member.name), text_of_type(member), at, member.bit_size});
  }

  uint64_t offset_of(const TypeEntry& member) const {
    const uint64_t bytes = member.place * 8;
    if (!member.has_bit_place) return bytes;
    if (!member.bits_from_top) return member.bit_place;
    // Before version 4: from the most significant bit of a unit of `size` bytes.
    const TypeEntry* type = entries_.type_of(member);
    const uint64_t unit = (member.size != 0 ? member.size : type != nullptr ? type->size : 4) * 8;
    return bytes + (big_ ? member.bit_place : unit - member.bit_place - member.bit_size);
  }

  static std::string virtual_name(const TypeEntry& function) {
    return std::string(function.linkage_name.empty() ? function.name : function.linkage_name);
  }

  /// An entry and the declaration that it completes.
  template <class Has>
  const TypeEntry& with(const TypeEntry& entry, Has&& has) const {
    const TypeEntry* at = &entry;
    for (int depth = 0; depth < 4 && !has(*at) && at->specification != 0; ++depth) {
      const TypeEntry* next = entries_.at(at->specification);
      if (next == nullptr) break;
      at = next;
    }
    return *at;
  }

  std::string linker_name(const TypeEntry& entry) const {
    const TypeEntry& linked = with(entry, [](const TypeEntry& e) { return !e.linkage_name.empty(); });
    if (!linked.linkage_name.empty()) return std::string(linked.linkage_name);
    return std::string(with(entry, [](const TypeEntry& e) { return !e.name.empty(); }).name);
  }

  void keep_function(uint32_t index) {
    const TypeEntry& entry = entries_.list[index];
    if (!with(entry, [](const TypeEntry& e) { return e.external; }).external) return;
    const std::string name = linker_name(entry);
    if (name.empty() || into_.functions.contains(name)) return;
    Signature signature = signature_of(entry);
    const TypeEntry& typed = with(entry, [](const TypeEntry& e) { return e.type != 0 || e.signature != 0; });
    signature.result = text_of_type(typed);
    into_.functions.emplace(name, std::move(signature));
  }

  void keep_variable(uint32_t index) {
    const TypeEntry& entry = entries_.list[index];
    const std::string name = linker_name(entry);
    if (name.empty()) return;
    const TypeEntry* type = entries_.type_of(entry);
    const TypeEntry* to = type != nullptr && type->tag == tag_pointer ? entries_.type_of(*type) : nullptr;
    if (to != nullptr && to->tag == tag_function_type) into_.pointers.emplace(name, signature_of(*to));
    into_.data.emplace(name, text_of_type(entry));
  }

  const Entries& entries_;
  bool big_;
  DebugTypes& into_;
  std::vector<std::string> names_;
  std::unordered_map<const TypeEntry*, TypeText> texts_;
  uint64_t steps_ = 1'000'000 + 32 * entries_.list.size();  ///< members that are looked at, at most
};

}  // namespace

void read_types(const Sections& sections, DebugTypes& into) {
  read_entries(sections, [&](const Entries& entries) { TypeReader(entries, sections.order, into).read(); });
}

}  // namespace fibula::dwarf
