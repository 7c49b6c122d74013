#include "take/data_files.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "os/mapped_file.hpp"
#include "take/file_roles.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr size_t most_candidates = 200;  // each is looked for in every library
constexpr size_t telling = 6;            // shorter names stand in anybody's bytes

/// What build tools read or leave, beside libraries.
constexpr std::string_view endings_of_builds[] = {
    ".cmake",  ".pc",  ".la",  ".in",  ".am", ".ac", ".m4",      ".mk",  ".sln",   ".vcxproj", ".filters",
    ".gradle", ".exp", ".def", ".map", ".ld", ".py", ".podspec", ".jar", ".class", ".o",       ".obj"};

bool is_for_builds(const std::string& file) {
  return std::any_of(std::begin(endings_of_builds), std::end(endings_of_builds),
                     [&](std::string_view ending) { return file.ends_with(ending); });
}

bool is_among(const std::vector<std::string>& files, const std::string& file) {
  return std::find(files.begin(), files.end(), file) != files.end();
}

std::vector<std::string> candidates(const Source& source) {
  std::vector<std::string> found;
  for (const auto& file : source.goes_along) {
    const bool may_be = role_of(file, source.own_folders) == Role::other && !is_for_builds(file) &&
                        !is_among(source.archives, file) && !is_among(source.programs, file) &&
                        !is_among(source.opened_only, file);
    if (may_be && found.size() < most_candidates) found.push_back(file);
  }
  return found;
}

/// A name as it stands in a text of a program: `begins` says whether what stands before it may belong to it.
bool stands_in(std::string_view content, std::string_view name, bool (*begins)(std::string_view before)) {
  for (size_t at = content.find(name); at != std::string_view::npos; at = content.find(name, at + 1)) {
    if (begins(content.substr(0, at))) return true;
  }
  return false;
}

bool is_whole_name(std::string_view before) {
  return before.empty() ||
         !(text::is_identifier_character(before.back()) || before.back() == '-' || before.back() == '.');
}

/// Paths of sources in debugging records lead through folders too; those are no beginnings.
bool is_beginning_of_path(std::string_view before) {
  return before.empty() || before.back() == '\0' || before.ends_with("../") || before.ends_with("./") ||
         before.ends_with("%s/");
}

/// Adds those of the files that a library's bytes name.
void note_named(const std::vector<std::string>& files, std::string_view content, std::set<std::string>& named) {
  std::map<std::string, bool> folders;  // whether they are named
  for (const auto& file : files) {
    if (named.contains(file)) continue;
    const fs::path path(file);
    const std::string name = path.filename().string(), folder = path.parent_path().filename().string();
    const auto [known, fresh] = folders.try_emplace(folder, false);
    if (fresh && folder.size() >= telling - 1) known->second = stands_in(content, folder + "/", is_beginning_of_path);
    const bool by_name = name.size() >= telling && path.has_extension() && stands_in(content, name, is_whole_name);
    if (known->second || by_name) named.insert(file);
  }
}

}  // namespace

void find_data(Source& source) {
  const auto files = candidates(source);
  if (files.empty()) return;
  std::set<std::string> named;
  for (const auto& binary : source.binaries) {
    const auto mapped = MappedFile::open(source.root / binary.file);
    if (!mapped) continue;
    note_named(files, (*mapped)->bytes().text(), named);
  }
  if (named.empty()) return;
  source.files.data.insert(source.files.data.end(), named.begin(), named.end());
  source.remarks.push_back(
      fmt::format("its code names {}: placed with the program as data", and_more({named.begin(), named.end()})));
}

}  // namespace fibula
