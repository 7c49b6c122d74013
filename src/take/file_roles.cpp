#include "take/file_roles.hpp"

#include "base/text.hpp"
#include "headers/header_folders.hpp"

#include <fibula/facts.hpp>

#include <algorithm>
#include <filesystem>
#include <initializer_list>
#include <optional>

namespace fibula {
namespace {

namespace fs = std::filesystem;

struct FolderRow {
  std::string_view name;
  Role role;
};

constexpr FolderRow folder_rows[] = {
    {".git", Role::unwanted},
    {".svn", Role::unwanted},
    {".hg", Role::unwanted},
    {".fibula", Role::unwanted},
    {"sample", Role::sample},
    {"samples", Role::sample},
    {"example", Role::sample},
    {"examples", Role::sample},
    {"demo", Role::sample},
    {"demos", Role::sample},
    {"tutorial", Role::sample},
    {"test", Role::test},
    {"tests", Role::test},
    {"testing", Role::test},
    {"unittest", Role::test},
    {"unittests", Role::test},
    {"fuzz", Role::test},
    {"fuzzing", Role::test},
    {"bench", Role::test},
    {"benchmark", Role::test},
    {"benchmarks", Role::test},
    {"doc", Role::document},
    {"docs", Role::document},
    {"documentation", Role::document},
    {"man", Role::document},
    {"third_party", Role::foreign},
    {"third-party", Role::foreign},
    {"thirdparty", Role::foreign},
    {"3rdparty", Role::foreign},
    {"external", Role::foreign},
    {"externals", Role::foreign},
    {"vendor", Role::foreign},
    {"extern", Role::foreign},
    {"deps", Role::foreign},
    {"contrib", Role::foreign},
    {"subprojects", Role::foreign},
    {"node_modules", Role::foreign},
    {"dependencies", Role::foreign},
    {"programs", Role::sample},
    {"apps", Role::sample},
    {"perf", Role::test},
    {"scripts", Role::test},
    {"plugins", Role::foreign},
    {"share", Role::data},
    {"data", Role::data},
    {"resources", Role::data},
    {"assets", Role::data},
};

/// `regtest`, `ossfuzz`, `testbed`, `fuzzing`: names that say it at one end.
bool is_for_tests(const std::string& name) {
  for (const std::string_view word : {"test", "tests", "fuzz"}) {
    if (name.ends_with(word) || (name.starts_with(word))) return true;
  }
  return false;
}

/// What build tools read, not programs.
constexpr std::string_view tool_folders[] = {"pkgconfig", "cmake", "aclocal", "lintian"};

/// The first folder that says something decides. What lies below a folder called include is there to be included, by
/// whatever names its makers chose.
std::optional<Role> folder_role(const fs::path& file, const std::set<std::string>& own) {
  std::optional<Role> found;
  for (const auto& part : file.parent_path()) {
    const std::string name = text::lower(part.string());
    if (name == "include" && !found) return Role::header;
    if (name.ends_with(".dsym")) return Role::debug;
    if (std::find(std::begin(tool_folders), std::end(tool_folders), name) != std::end(tool_folders)) return Role::other;
    const auto* row = std::find_if(std::begin(folder_rows), std::end(folder_rows),
                                   [&](const FolderRow& candidate) { return candidate.name == name; });
    if (row == std::end(folder_rows)) {
      if (!found && is_for_tests(name) && !own.contains(name)) found = Role::test;
      continue;
    }
    // share/doc holds documents.
    if (!found || (*found == Role::data && row->role == Role::document)) found = row->role;
  }
  return found;
}

/// What packers, editors and other systems leave behind.
bool is_debris(const fs::path& file) {
  static constexpr std::string_view names[] = {".ds_store", "thumbs.db", "desktop.ini", ".directory", "icon\r"};
  const std::string name = text::lower(file.filename().string());
  for (const auto& part : file.parent_path()) {
    if (part == "__MACOSX" || part == ".AppleDouble") return true;
  }
  return std::find(std::begin(names), std::end(names), name) != std::end(names) || name.starts_with("._") ||
         name.starts_with(".#") || name.ends_with("~") || name.ends_with(".swp") || name.ends_with(".swo");
}

bool starts_with_any(const std::string& name, std::initializer_list<std::string_view> starts) {
  return std::any_of(starts.begin(), starts.end(), [&](std::string_view start) { return name.starts_with(start); });
}

bool ends_with_any(const std::string& name, std::initializer_list<std::string_view> ends) {
  return std::any_of(ends.begin(), ends.end(), [&](std::string_view end) { return name.ends_with(end); });
}

}  // namespace

bool is_source_name(const std::string& file) {
  // .S and .C are preprocessed assembly and C++ where the case of letters counts.
  return file.ends_with(".C") ||
         ends_with_any(text::lower(file), {".c", ".cc", ".cpp", ".cxx", ".c++", ".s", ".asm", ".nasm"});
}

std::set<std::string> own_folder_names(const std::vector<fs::path>& files, const std::string& library) {
  std::set<std::string> names;
  const std::string own = text::lower(library);
  for (const auto& file : files) {
    std::string above;
    bool below_include = false;
    for (const auto& part : file.parent_path()) {
      const std::string name = text::lower(part.string());
      if (below_include) names.insert(name);
      below_include = name == "include";
      // What is called after what it does with the library has headers of its own.
      if (below_include && !above.starts_with("test") && !above.starts_with("fuzz")) names.insert(above);
      above = name;
    }
    // `comtest/comtest.h` of a library called comtest.
    const bool is_namesake =
        text::lower(file.parent_path().string()) == own && text::lower(file.stem().string()) == own;
    if (is_namesake && is_header_name(file.string())) names.insert(own);
  }
  return names;
}

Role role_of(const std::string& file, const std::set<std::string>& own) {
  const fs::path path(file);
  const auto folder = folder_role(path, own);
  if (folder == Role::unwanted || path.filename() == ".git") return Role::unwanted;
  if (is_debris(path)) return Role::debris;
  const std::string name = text::lower(path.filename().string());
  if (starts_with_any(name, {"license", "licence", "copying", "copyright", "unlicense"}) && !is_source_name(name))
    return Role::licence;
  if (ends_with_any(name, {".pdb", ".debug", ".dwp"})) return Role::debug;
  if (folder && *folder != Role::header && *folder != Role::data) return *folder;
  if (is_header_name(file)) return Role::header;
  // Headers without an ending, as C++ libraries have them.
  if (folder == Role::header && !path.has_extension()) return Role::header;
  if (path.stem() == "README") return Role::document;  // README.dll tells how to make one
  if (has_library_name(path)) return Role::library;
  if (folder == Role::data) return Role::data;
  if (is_source_name(file)) return Role::source;
  if (starts_with_any(name, {"readme", "change", "news", "authors", "history"}) ||
      ends_with_any(name, {".md", ".pdf", ".html", ".rst", ".txt"}))
    return Role::document;
  return Role::other;
}

}  // namespace fibula
