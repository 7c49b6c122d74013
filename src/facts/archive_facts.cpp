#include "facts/facts.hpp"

#include "base/text.hpp"
#include "base/version.hpp"
#include "binary/open.hpp"
#include "facts/fact.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>

namespace fibula {
namespace {

/// Takes over what the archive does not know yet; what was learnt from an earlier member stays.
template <class T>
void adopt(Fact<T>& whole, const Fact<T>& member, const std::string& name) {
  if (whole || !member) return;
  whole = member;
  // Some librarians keep the path that a member was made from: its last part is what people know it by.
  whole.from = fmt::format("{} in {}", member.from, name.substr(name.find_last_of("/\\") + 1));
}

/// Code is as position dependent as its worst member.
void adopt_pic(Facts& whole, const Facts& member) {
  if (!member.pic) return;
  const bool worse = whole.pic && member.pic.value->level > whole.pic.value->level;
  if (worse) whole.pic.value.reset();
  adopt(whole.pic, member.pic, member.path);
}

/// One language, or the one that decides: C++ beside C needs the C++ run-time; other mixtures are told as such.
void adopt_language(Facts& whole, const Facts& member) {
  if (!member.language || whole.language.value == member.language.value) return;
  const auto plain = [](const Fact<std::string>& f) { return f.value == "C" || f.value == "assembly"; };
  if (!whole.language || plain(whole.language)) {
    whole.language = {};
    adopt(whole.language, member.language, member.path);
  } else if (!plain(member.language)) {
    whole.language = derived("mixed", fmt::format("{} and {}", whole.language.from, member.path));
  }
}

/// A floor is as high as the highest member's; the levels of one architecture sort by their names.
void adopt_highest(Fact<std::string>& whole, const Fact<std::string>& member, const std::string& name) {
  if (whole && member && compare_versions(*member.value, *whole.value) > 0) whole = {};
  adopt(whole, member, name);
}

/// Old strings in one member and new ones in another make both.
void adopt_strings(Fact<std::string>& strings, const Fact<std::string>& fresh, const std::string& member) {
  if (!fresh || fresh.value == "none" || strings.value == fresh.value) return adopt(strings, fresh, member);
  if (!strings || strings.value == "none") {
    strings = {};
    return adopt(strings, fresh, member);
  }
  strings = derived("both", fmt::format("{}, and {} in {}", strings.from, fresh.from, member));
}

/// One member that gives C++ names makes it the archive's interface.
void adopt_interface(Facts& whole, const Facts& member) {
  if (whole.interface.value == "C" && member.interface.value == "C++") whole.interface = {};
  adopt(whole.interface, member.interface, member.path);
}

constexpr std::string_view stale_index = "the archive's symbol table is stale";

/// Whether a note that begins like this was made for an earlier member: the first one stands for all.
bool has_note(const Facts& whole, std::string_view start) {
  return std::any_of(whole.notes.begin(), whole.notes.end(), [&](const auto& note) { return note.starts_with(start); });
}

/// A fact that a linker wants to be the same in all members.
struct Shared {
  Fact<std::string> Facts::*fact;
  std::string_view id;
};

constexpr Shared shared_facts[] = {{&Facts::float_abi, "float-abi"},     {&Facts::c_runtime, "c-runtime"},
                                   {&Facts::cxx_runtime, "cxx-runtime"}, {&Facts::stl_debug, "stl-debug"},
                                   {&Facts::exceptions, "exceptions"},   {&Facts::threads, "threads"}};

/// Facts that are the archive's as soon as one member has them.
constexpr Fact<std::string> Facts::*any_facts[] = {&Facts::openmp, &Facts::fortran, &Facts::soname, &Facts::entry,
                                                   &Facts::debug_file};

bool is_for_any(const Fact<std::string>& fact) {
  return fact.value == "any";
}

void note_disagreement(Facts& whole, const Facts& member, const Shared& row) {
  const auto& mine = whole.*row.fact;
  const auto& other = member.*row.fact;
  if (!mine || !other || mine.value == other.value || is_for_any(mine) || is_for_any(other)) return;
  const std::string start = fmt::format("members disagree about {}:", row.id);
  if (has_note(whole, start)) return;
  whole.notes.push_back(
      fmt::format("{} {} ({}), {} (member {})", start, *mine.value, mine.from, *other.value, member.path));
}

/// A few members that must not be optimised make no debug build: who wants one optimises none.
void adopt_configuration(Facts& whole, const Facts& member) {
  if (whole.configuration.value == "debug" && member.configuration.value == "release") whole.configuration = {};
  adopt(whole.configuration, member.configuration, member.path);
}

void adopt_paths(Facts& whole, const Facts& member) {
  if (!member.build_paths) return;
  if (!whole.build_paths) return adopt(whole.build_paths, member.build_paths, member.path);
  auto& paths = *whole.build_paths.value;
  for (const auto& path : *member.build_paths.value) {
    if (paths.size() < 8 && std::find(paths.begin(), paths.end(), path) == paths.end()) paths.push_back(path);
  }
}

void merge(Facts& whole, const Facts& member) {
  adopt(whole.format, member.format, member.path);
  adopt(whole.arch, member.arch, member.path);
  adopt(whole.bits, member.bits, member.path);
  adopt(whole.endian, member.endian, member.path);
  for (const auto& row : shared_facts) {
    note_disagreement(whole, member, row);
    if (is_for_any(whole.*row.fact) && (member.*row.fact) && !is_for_any(member.*row.fact)) whole.*row.fact = {};
    adopt(whole.*row.fact, member.*row.fact, member.path);
  }
  for (const auto fact : any_facts) adopt(whole.*fact, member.*fact, member.path);
  adopt(whole.os_floor, member.os_floor, member.path);
  adopt(whole.toolset, member.toolset, member.path);
  adopt(whole.link_time, member.link_time, member.path);
  adopt(whole.debug_info, member.debug_info, member.path);
  adopt(whole.sanitizers, member.sanitizers, member.path);
  adopt(whole.profile, member.profile, member.path);
  adopt_highest(whole.cpu_floor, member.cpu_floor, member.path);
  adopt_strings(whole.string_abi, member.string_abi, member.path);
  adopt_strings(whole.own_strings, member.own_strings, member.path);
  adopt_interface(whole, member);
  adopt_language(whole, member);
  adopt_paths(whole, member);
  adopt_configuration(whole, member);
  adopt_pic(whole, member);
  whole.defined_count += member.defined_count;
  whole.undefined_count += member.undefined_count;
}

/// Members by what they are for: more than one row means that the archive is mixed.
using Census = std::map<std::string, std::pair<size_t, std::string>>;

void note_mixture(const Census& census, Facts& whole) {
  if (census.size() < 2) return;
  std::string text;
  for (const auto& [target, row] : census) {
    text += fmt::format("{}{} ({}, first {})", text.empty() ? "" : ", ", target, text::count(row.first, "member"),
                        row.second);
  }
  whole.mixed = true;
  whole.notes.push_back("members are for different machines: " + text);
}

void note_archive(const Archive& archive, Facts& whole) {
  if (archive.members.empty()) {
    whole.kind = {.value = Kind::empty, .from = "archive without members"};
  } else if (!archive.has_index) {
    whole.notes.emplace_back("the archive has no symbol table: run ranlib on it");
  }
  if (archive.thin) whole.notes.emplace_back("thin archive: its members are files beside it");
}

/// The facts of one member. Nothing, and a note, when it is no object or is gone.
Result<std::optional<Image>> read_member(const ArMember& member, Result<Bytes> bytes, Facts& whole) {
  if (!bytes || reader_for(*bytes) == nullptr) {
    whole.notes.push_back(
        fmt::format("member {} {}", member.name, bytes ? "is no object file" : "is gone: " + bytes.error().hint));
    return std::optional<Image>();
  }
  auto image = read_image(*bytes, want_facts);
  if (!image) {
    image.error().place = fmt::format("member {}, {}", member.name, image.error().place);
    return pass(image);
  }
  return std::optional(std::move(*image));
}

/// The names that the archive's symbol table gives each member.
std::vector<std::vector<std::string_view>> names_of_index(const Archive& archive) {
  std::vector<std::vector<std::string_view>> names(archive.members.size());
  for (const auto& entry : archive.index) names[entry.member].push_back(entry.symbol);
  return names;
}

/// Whether both hold the same names. Librarians write a member's symbols as its own table has them, so that there is
/// nothing to sort as a rule.
bool same_names(std::vector<std::string_view> some, std::vector<std::string_view> others) {
  if (some == others) return true;
  if (some.size() != others.size()) return false;
  std::sort(some.begin(), some.end());
  std::sort(others.begin(), others.end());
  return some == others;
}

/// A symbol table that was made before its members were changed sends linkers to the wrong member, or to none. Checked
/// where it is known which names belong into it: ELF objects with machine code.
void check_index(const ArMember& member, const Image& image, std::vector<std::string_view> indexed, Facts& whole) {
  if (image.target.format != Format::elf || image.link_time || has_note(whole, stale_index)) return;
  std::vector<std::string_view> defined;
  defined.reserve(indexed.size());
  for (const auto& symbol : image.symbols) {
    if (symbol.defined && is_global(symbol)) defined.push_back(symbol.name);
  }
  const size_t has = defined.size(), says = indexed.size();
  if (same_names(std::move(defined), std::move(indexed))) return;
  const std::string what =
      has == says ? fmt::format("member {} does not define what it says", member.name)
                  : fmt::format("member {} defines {}, it has {}", member.name, text::count(has, "symbol"), says);
  whole.notes.push_back(fmt::format("{}: {}; run ranlib on the archive", stale_index, what));
}

/// Only members that stand for a DLL make an import library; a static library may hold a few of them too.
void tell_imports(const Archive& archive, size_t imports, Facts& whole) {
  if (imports == 0) return;
  if (imports == archive.members.size()) {
    whole.kind = {.value = Kind::import_library,
                  .certainty = Certainty::derived,
                  .from = "every member stands for a DLL's symbol"};
  } else {
    whole.notes.push_back(fmt::format("{} for symbols of {} among ordinary objects", text::count(imports, "member"),
                                      whole.soname.value.value_or("a DLL")));
    whole.soname = {};
  }
}

}  // namespace

Result<Facts> facts_of_archive(const Archive& archive, bool member_facts, const std::filesystem::path& path) {
  Facts whole;
  whole.kind = {.value = Kind::static_library, .from = "archive magic"};
  Census census;
  size_t imports = 0;
  auto indexed = names_of_index(archive);
  for (size_t i = 0; i < archive.members.size(); ++i) {
    const ArMember& member = archive.members[i];
    std::shared_ptr<const MappedFile> mapping;
    auto image = read_member(member, member_bytes(path, archive, member, mapping), whole);
    if (!image) return pass(image);
    if (!*image) continue;
    Facts facts = facts_of_image(**image);
    facts.path = member.name;
    if (archive.has_index) check_index(member, **image, std::move(indexed[i]), whole);
    imports += (*image)->type == ImageType::import_member ? 1U : 0U;
    auto& row = census[to_string((*image)->target)];
    if (row.first++ == 0) row.second = member.name;
    merge(whole, facts);
    if (member_facts) whole.members.push_back(std::move(facts));
  }
  tell_imports(archive, imports, whole);
  note_archive(archive, whole);
  note_mixture(census, whole);
  return whole;
}

}  // namespace fibula
