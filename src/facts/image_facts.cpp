#include "facts/facts.hpp"

#include "base/version.hpp"
#include "facts/build_facts.hpp"
#include "facts/fact.hpp"
#include "facts/runtime_facts.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// The names of the fields that a format keeps its facts in.
struct Fields {
  Format format;
  std::string_view arch, bits, endian, type, name, needs;
};

constexpr Fields fields[] = {
    {Format::elf, "ELF header, e_machine", "ELF header, EI_CLASS", "ELF header, EI_DATA", "ELF header, e_type",
     "dynamic section, DT_SONAME", "dynamic section, DT_NEEDED"},
    {Format::coff, "COFF header, Machine", "COFF header, Machine", "COFF header, Machine", "COFF header",
     "import member", ""},
    {Format::pe, "COFF header, Machine", "optional header, Magic", "COFF header, Machine",
     "COFF header, Characteristics", "export directory, Name", "import directory"},
    {Format::macho, "Mach-O header, cputype", "Mach-O header, magic", "Mach-O header, magic", "Mach-O header, filetype",
     "LC_ID_DYLIB", "load commands"},
    {Format::bitcode, "module, target triple", "module, target triple", "module, target triple", "bitcode header", "",
     ""},
    {Format::gcc_lto, "object header, machine", "object header, class", "object header, byte order",
     "link-time sections", "", ""},
    {Format::stub, "targets", "targets", "targets", "text stub", "install name", "re-exported libraries"},
};

const Fields& fields_of(Format format) {
  const auto* row =
      std::find_if(std::begin(fields), std::end(fields), [&](const Fields& f) { return f.format == format; });
  return row == std::end(fields) ? fields[0] : *row;
}

Kind kind_of(const Image& image) {
  switch (image.type) {
    case ImageType::object: return Kind::object;
    case ImageType::import_member: return Kind::import_library;
    case ImageType::program:
    case ImageType::pie_program: return Kind::program;
    case ImageType::shared:
    case ImageType::stub: return Kind::shared_library;
    case ImageType::plugin: return Kind::plugin;
    case ImageType::core: return Kind::core;
    case ImageType::other: break;
  }
  return Kind::object;
}

void add_target(const Image& image, const Fields& from, Facts& facts) {
  facts.format = fact(image.target.format, "magic number");
  if (image.target.bits != 0) facts.bits = fact(image.target.bits, std::string(from.bits));
  facts.endian = fact(image.target.endian, std::string(from.endian));
  const bool pie = image.type == ImageType::pie_program && image.target.format == Format::elf;
  facts.kind = fact(kind_of(image), pie ? "dynamic section, DF_1_PIE or interpreter" : std::string(from.type));
  if (image.target.arch != Arch::unknown) {
    facts.arch = fact(image.target.arch, std::string(from.arch));
  } else {
    facts.notes.push_back(fmt::format("machine number {} is not one that is known here", image.machine));
  }
}

/// The highest version with this prefix among all that are needed: "GLIBC_" gives "2.34".
Fact<std::string> highest_version(const Image& image, std::string_view prefix) {
  Fact<std::string> best;
  for (const auto& need : image.needs) {
    for (const auto& version : need.versions) {
      if (!version.starts_with(prefix) || version.size() == prefix.size() ||
          !std::isdigit(static_cast<unsigned char>(version[prefix.size()])))
        continue;
      const auto number = version.substr(prefix.size());
      if (best && compare_versions(number, *best.value) <= 0) continue;
      best = fact(number, fmt::format("version {} needed from {}", version, need.name));
    }
  }
  return best;
}

void add_loader_facts(const Image& image, const Fields& from, Facts& facts) {
  if (image.soname) facts.soname = fact(std::string(*image.soname), std::string(from.name));
  if (image.type == ImageType::object || image.type == ImageType::import_member) return;
  facts.needs = fact(image.needs, std::string(from.needs));
  const bool elf = image.target.format == Format::elf;
  if (!image.rpath.empty()) facts.rpath = fact(image.rpath, "dynamic section, DT_RPATH");
  if (!image.runpath.empty()) facts.runpath = fact(image.runpath, elf ? "dynamic section, DT_RUNPATH" : "LC_RPATH");
  facts.libc_floor = highest_version(image, "GLIBC_");
  facts.cxx_floor = highest_version(image, "GLIBCXX_");
}

void add_recorded(Fact<std::string>& into, const Recorded& recorded) {
  if (recorded) into = fact(recorded.value, recorded.from);
}

/// Where programs begin, as people write it: the C run-time's start files call one of these.
constexpr std::string_view entries[] = {"main", "wmain", "WinMain", "wWinMain"};

/// A library that defines it takes the program's place, or clashes with it. Windows on 32-bit x86 appends the size of
/// the arguments: `_WinMain@16`.
void look_for_entry(const Image& image, const ImageSymbol& symbol, Facts& facts) {
  const bool possible = symbol.defined && image.type == ImageType::object && symbol.binding == Binding::global;
  if (!possible || symbol.name.size() > 12 || facts.entry) return;
  std::string_view name = symbol.name;
  if (has_c_underscore(image.target) && name.starts_with('_')) name.remove_prefix(1);
  name = name.substr(0, name.find('@'));
  if (std::find(std::begin(entries), std::end(entries), name) != std::end(entries))
    facts.entry = fact(std::string(name), fmt::format("symbol {}", symbol.name));
}

/// Counts the symbols and looks at every name once.
NameTraits look_at_symbols(const Image& image, Facts& facts) {
  NameTraits traits(image.target);
  for (const auto& symbol : linkable_symbols(image)) {
    if (!is_global(symbol)) continue;
    ++(symbol.defined ? facts.defined_count : facts.undefined_count);
    const bool weak = symbol.binding == Binding::weak;
    traits.look_at(symbol.name, !symbol.defined && weak             ? NameTraits::Role::wished
                                : !symbol.defined                   ? NameTraits::Role::needed
                                : symbol.binding == Binding::global ? NameTraits::Role::given
                                                                    : NameTraits::Role::defined);
    look_for_entry(image, symbol, facts);
  }
  return traits;
}

void add_pic(const Image& image, Facts& facts) {
  if (image.pic) facts.pic = fact(*image.pic, "relocations", Certainty::derived);
  const bool loaded_anywhere = facts.kind.value == Kind::shared_library || facts.kind.value == Kind::plugin;
  if (image.target.format == Format::elf && loaded_anywhere)
    facts.pic = fact(PicReport{}, "ELF header, e_type", Certainty::derived);
}

}  // namespace

bool is_global(const ImageSymbol& symbol) {
  return symbol.binding != Binding::local;
}

const std::vector<ImageSymbol>& linkable_symbols(const Image& image) {
  const bool object = image.type == ImageType::object || image.type == ImageType::import_member;
  return object ? image.symbols : image.dynamic_symbols;
}

Facts facts_of_image(const Image& image) {
  const Fields& from = fields_of(image.target.format);
  Facts facts;
  add_target(image, from, facts);
  add_loader_facts(image, from, facts);
  const NameTraits traits = look_at_symbols(image, facts);
  add_recorded(facts.cpu_floor, image.cpu_floor);
  add_recorded(facts.float_abi, image.float_abi);
  if (!image.system.name.empty())
    facts.os_floor = fact(NamedVersion{image.system.name, image.system.version}, image.system.from);
  add_c_runtime(image, traits, facts);
  add_cxx_runtime(image, traits, facts);
  add_interface(traits, facts);
  add_instrumentation(image, traits, facts);
  add_toolset(image, facts);
  add_thread_model(facts);
  add_language(image, traits, facts.defined_count + facts.undefined_count > 0, facts);
  add_debug(image, facts);
  add_configuration(image, facts);
  add_pic(image, facts);
  if (!image.subsystem.empty()) facts.subsystem = fact(image.subsystem, "optional header, Subsystem");
  add_recorded(facts.file_version, image.version);
  if (!image.build_id.empty())
    facts.build_id = fact(image.build_id, image.target.format == Format::macho ? "LC_UUID" : "note NT_GNU_BUILD_ID");
  if (image.sections_differ)
    facts.notes.emplace_back("its section headers are not about what its segments hold; loaders go by the segments");
  if (image.odd_notes) facts.notes.emplace_back("a section of notes in it has not the form of notes");
  if (image.encrypted) facts.notes.emplace_back("its code is encrypted: only the system's loader can read it");
  return facts;
}

}  // namespace fibula
