#include "binary/dwarf.hpp"

#include "binary/dwarf_forms.hpp"

namespace fibula::dwarf {
namespace {

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
    case at_string_base: entry.string_base = value.number; break;
    case at_apple_optimised: entry.optimised = value.number != 0; break;
    default: break;
  }
}

std::optional<DebugRecord> record_of(const Sections& sections, const Unit& unit) {
  const auto bytes = sections.info.slice(unit.entry, unit.end > unit.entry ? unit.end - unit.entry : 0, "entry");
  if (!bytes) return std::nullopt;
  Cursor c(*bytes, sections.order, "entry");
  const uint64_t code = c.uleb128();
  AbbreviationReader abbreviations(sections, unit);
  auto shape = abbreviations.next();
  while (shape && shape->code != code) shape = abbreviations.next();
  if (!shape) return std::nullopt;
  FormReader forms(sections, unit, c);
  Entry entry;
  for (const auto& attribute : shape->attributes) {
    const Value value = forms.read(attribute);
    if (!c) return std::nullopt;
    keep(entry, attribute.name, value);
  }
  const auto text = [&](const Value& value) { return text_of(sections, unit, entry.string_base, value); };
  return DebugRecord{.producer = text(entry.producer),
                     .folder = text(entry.folder),
                     .source = text(entry.name),
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

Result<Bytes> Expanded::add(Bytes compressed, uint64_t size, Compression how) {
  constexpr uint64_t densest = 2000, most = 1ULL << 30U;
  if (size > most || size / densest > compressed.size())
    return fail(compressed.error(Code::limit, 0, "says that it expands to more than it can hold"));
  auto text = expand(compressed, size, how);
  if (!text) return pass(text);
  const std::string& kept = texts_.emplace_back(std::move(*text));
  return Bytes({reinterpret_cast<const std::byte*>(kept.data()), kept.size()});
}

std::optional<DebugRecord> first_unit(const Sections& sections) {
  constexpr int most_units = 256;  // start code comes first, and there is little of it
  uint64_t at = 0;
  for (int i = 0; i < most_units && at < sections.info.size(); ++i) {
    const auto unit = read_unit(sections, at);
    if (!unit) return std::nullopt;
    at = unit->end;  // behind the unit's own header, so the walk ends
    if (unit->holds_a_type()) continue;
    const auto record = record_of(sections, *unit);
    if (!record || !is_start_code(*record)) return record;
  }
  return std::nullopt;
}

}  // namespace fibula::dwarf
