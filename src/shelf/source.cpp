#include "shelf/source.hpp"

#include "base/files.hpp"
#include "base/text.hpp"
#include "binary/open.hpp"
#include "facts/header_folders.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

bool is_licence_name(const std::string& file) {
  const std::string name = text::lower(fs::path(file).filename().string());
  return name.starts_with("license") || name.starts_with("licence") || name.starts_with("copying");
}

/// A script in place of a library has the facts of the first file that it names beside itself.
Result<Facts> facts_behind(const fs::path& path, const Facts& facts) {
  for (const auto& need : *facts.needs.value) {
    const fs::path target = fs::path(need.name).is_absolute() ? fs::path(need.name) : path.parent_path() / need.name;
    std::error_code ignored;
    if (fs::is_regular_file(target, ignored)) return inspect(target);
  }
  return fail({.code = Code::absent,
               .what = "is a linker script, and none of the files it names is there",
               .file = path.string(),
               .hint = "take the package that has them as well"});
}

}  // namespace

namespace {

/// Systems keep empty archives under the names of libraries whose functions moved into the C library. In a download it
/// is an accident, and linkers say no word about it.
Result<bool> told_empty(Source& source, const std::string& file) {
  if (source.kind == "prefix") {
    source.remarks.push_back(file + " is an archive without members, and left out");
    return true;
  }
  return fail({.code = Code::refused,
               .what = "is an archive without members: nothing in it can be linked",
               .file = (source.root / file).string(),
               .hint = "unpack or build the library again, or remove this file if it is not needed"});
}

}  // namespace

Result<bool> add_binaries(Source& source, const std::vector<std::string>& files) {
  for (const auto& file : files) {
    const fs::path path = source.root / file;
    std::error_code ignored;
    if (fs::is_symlink(path, ignored) && !fs::exists(path, ignored)) {
      source.remarks.push_back(
          fmt::format("{} is a link to {}, which is not there", file, fs::read_symlink(path, ignored).string()));
      continue;
    }
    auto facts = inspect(path);
    if (facts && facts->kind.value == Kind::script) facts = facts_behind(path, *facts);
    if (!facts) return pass(facts);
    if (facts->mixed) {
      return fail({.code = Code::refused,
                   .what = facts->notes.back(),
                   .file = path.string(),
                   .hint = "no program can use all of it: ask for a library that was built for one machine"});
    }
    if (facts->kind.value == Kind::empty) {
      auto empty = told_empty(source, file);
      if (!empty) return empty;
      continue;
    }
    for (const auto& note : facts->notes) source.remarks.push_back(file + ": " + note);
    source.binaries.push_back({file, std::move(*facts)});
  }
  return true;
}

Result<Source> source_in_folder(const fs::path& folder) {
  std::error_code ignored;
  if (fs::is_regular_file(folder, ignored)) {
    auto file = open_binary(folder, 0);
    if (!file) return pass(file);
    return fail({.code = Code::refused,
                 .what = "is one file; a library is taken as the folder that holds its headers too",
                 .file = folder.string(),
                 .hint = "name the folder"});
  }
  auto files = files_below(folder);
  if (!files) return pass(files);
  Source source{.root = absolute_path(folder), .kind = "folder"};
  std::vector<std::string> libraries;
  for (const auto& path : *files) {
    const std::string file = path.generic_string();
    if (is_header_name(file)) source.headers.push_back(file);
    if (has_library_name(file)) libraries.push_back(file);
    if (is_licence_name(file)) source.extra.push_back(file);
  }
  if (auto added = add_binaries(source, libraries); !added) return pass(added);
  return source;
}

}  // namespace fibula
