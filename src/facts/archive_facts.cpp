#include "facts/facts.hpp"

#include "base/text.hpp"
#include "binary/open.hpp"

#include <fmt/format.h>
#include <map>

namespace fibula {
namespace {

/// Takes over what the archive does not know yet; what was learnt from an earlier member stays.
template <class T>
void adopt(Fact<T>& whole, const Fact<T>& member, const std::string& name) {
  if (whole || !member) return;
  whole = member;
  whole.from = fmt::format("{} in {}", member.from, name);
}

/// Code is as position dependent as its worst member.
void adopt_pic(Facts& whole, const Facts& member) {
  if (!member.pic) return;
  const bool worse = whole.pic && whole.pic.value->independent && !member.pic.value->independent;
  if (worse) whole.pic.value.reset();
  adopt(whole.pic, member.pic, member.path);
}

void merge(Facts& whole, const Facts& member) {
  adopt(whole.format, member.format, member.path);
  adopt(whole.arch, member.arch, member.path);
  adopt(whole.bits, member.bits, member.path);
  adopt(whole.endian, member.endian, member.path);
  adopt(whole.cxx_runtime, member.cxx_runtime, member.path);
  adopt(whole.toolset, member.toolset, member.path);
  if (member.language.value == "C++") whole.language = {};
  adopt(whole.language, member.language, member.path);
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

}  // namespace

Result<Facts> facts_of_archive(const Archive& archive, bool member_facts, const std::filesystem::path& path) {
  Facts whole;
  whole.kind = {.value = Kind::static_library, .from = "archive magic"};
  Census census;
  for (const auto& member : archive.members) {
    std::shared_ptr<const MappedFile> mapping;
    const auto bytes = member_bytes(path, archive, member, mapping);
    if (!bytes || reader_for(*bytes) == nullptr) {
      whole.notes.push_back(
          fmt::format("member {} {}", member.name, bytes ? "is no object file" : "is gone: " + bytes.error().hint));
      continue;
    }
    auto image = read_image(*bytes, want_all);
    if (!image) {
      image.error().place = fmt::format("member {}, {}", member.name, image.error().place);
      return pass(image);
    }
    Facts facts = facts_of_image(*image);
    facts.path = member.name;
    auto& row = census[to_string(image->target)];
    if (row.first++ == 0) row.second = member.name;
    merge(whole, facts);
    if (member_facts) whole.members.push_back(std::move(facts));
  }
  note_archive(archive, whole);
  note_mixture(census, whole);
  return whole;
}

}  // namespace fibula
