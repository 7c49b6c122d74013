#include "take/lost_names.hpp"

#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "os/files.hpp"
#include "os/folder.hpp"

#include <algorithm>

namespace fibula {
namespace {

bool is_imported(const Source& source, const Facts& dll) {
  return std::any_of(source.binaries.begin(), source.binaries.end(), [&](const Binary& other) {
    const Facts& facts = other.facts;
    return facts.kind.value == Kind::import_library && facts.arch.value == dll.arch.value && facts.soname &&
           text::lower(*facts.soname.value) == text::lower(*dll.soname.value);
  });
}

/// Whether programs look for a file by the name that it has inside.
bool is_looked_for(const Source& source, const Facts& facts) {
  if (facts.kind.value != Kind::shared_library || !facts.soname || !is_file_name(*facts.soname.value)) return false;
  return facts.format.value == Format::elf || (facts.format.value == Format::pe && is_imported(source, facts));
}

/// Windows finds files in any letters.
bool has_name(const std::string& file, const std::string& name, Format format) {
  const std::string own = fs::path(file).filename().string();
  return format == Format::pe ? text::lower(own) == text::lower(name) : own == name;
}

}  // namespace

std::vector<LostName> lost_names(const Source& source) {
  std::map<std::string, std::vector<std::string>> asking;
  for (const auto& binary : source.binaries) {
    const Facts& facts = binary.facts;
    if (!is_looked_for(source, facts) || has_name(binary.file, *facts.soname.value, *facts.format.value)) continue;
    const std::string name = (fs::path(binary.file).parent_path() / *facts.soname.value).generic_string();
    std::error_code ignored;
    const auto there = fs::symlink_status(source.root / name, ignored).type();
    if (there == fs::file_type::not_found) asking[name].push_back(binary.file);
  }
  std::vector<LostName> lost;
  for (const auto& [name, files] : asking) {
    if (files.size() == 1) lost.push_back({name, files.front()});
  }
  return lost;
}

Result<void> make_lost_names(const std::vector<LostName>& names, const fs::path& root) {
  const auto place = Folder::open(root);
  if (!place) return fail(place.error());
  for (const auto& [name, file] : names) {
    if (auto made = place->link(name, fs::path(file).filename()); !made) return made;
  }
  return {};
}

}  // namespace fibula
