#include "binary/debug_types.hpp"

#include "binary/coff.hpp"
#include "binary/dwarf_types.hpp"
#include "binary/elf.hpp"
#include "binary/macho.hpp"
#include "binary/open.hpp"
#include "binary/pe_image.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// A link-time object holds no records until it is linked: it has no sections for them.
Result<dwarf::Sections> sections_of(Bytes bytes, dwarf::Expanded& keep) {
  const FormatReader* reader = reader_for(bytes);
  if (reader == nullptr) return dwarf::Sections();
  if (reader->name == "ELF") return elf::debug_sections(bytes, keep);
  if (reader->name == "Mach-O") return macho::debug_sections(bytes);
  if (reader->name == "PE") {
    auto file = pe::read_file(bytes);
    return file ? Result<dwarf::Sections>(coff::debug_sections(file->coff)) : pass(file);
  }
  if (reader->name != "COFF" || !coff::is_object(bytes)) return dwarf::Sections();
  auto file = coff::read_file(bytes);
  return file ? Result<dwarf::Sections>(coff::debug_sections(*file)) : pass(file);
}

Result<void> add_image(Bytes bytes, DebugTypes& into) {
  dwarf::Expanded keep;
  auto sections = sections_of(bytes, keep);
  if (!sections) return pass(sections);
  dwarf::read_types(*sections, into);
  return {};
}

auto key(const LayoutMember& member) {
  return std::tie(member.name, member.type.form, member.offset, member.bits);
}

}  // namespace

bool same_layout(const Layout& a, const Layout& b) {
  const auto same = [](const auto& one, const auto& other, const auto& equal) {
    return std::equal(one.begin(), one.end(), other.begin(), other.end(), equal);
  };
  return a.kind == b.kind && a.size == b.size &&
         same(a.members, b.members, [](const auto& x, const auto& y) { return key(x) == key(y); }) &&
         same(a.virtuals, b.virtuals,
              [](const auto& x, const auto& y) { return x.name == y.name && x.slot == y.slot; }) &&
         same(a.enumerators, b.enumerators,
              [](const auto& x, const auto& y) { return x.name == y.name && x.value == y.value; });
}

Result<DebugTypes> debug_types_of(Bytes bytes) {
  DebugTypes types;
  if (!is_archive(bytes)) {
    auto done = add_image(bytes, types);
    return done ? Result<DebugTypes>(std::move(types)) : pass(done);
  }
  auto archive = read_members(bytes);
  if (!archive) return pass(archive);
  for (const auto& member : archive->members) {
    if (auto done = add_image(member.data, types); !done) return pass(done);
  }
  return types;
}

}  // namespace fibula
