#include "take/bundled.hpp"

#include "os/files.hpp"
#include "take/file_roles.hpp"

namespace fibula {
namespace {

/// `vendor/knot` of `vendor/knot/include`.
std::string library_of(const fs::path& path) {
  fs::path folder;
  for (const auto& part : path) {
    const bool is_among_others = role_of((folder / "x").generic_string()) == Role::foreign;
    folder /= part;
    if (is_among_others) break;
  }
  return folder.generic_string();
}

}  // namespace

Bundled::Bundled(const Source& source) {
  for (const auto& file : source.goes_along) {
    if (role_of(file) == Role::foreign) files_[fs::path(file).filename().string()].push_back(file);
  }
}

std::string Bundled::directory_with(const std::string& name) const {
  const auto found = files_.find(fs::path(name).filename().string());
  if (found == files_.end()) return {};
  for (const auto& file : found->second) {
    if (file.ends_with("/" + name)) return file.substr(0, file.size() - name.size() - 1);
  }
  return {};
}

std::string Bundled::library_with(const std::string& name) const {
  return library_of(directory_with(name));
}

std::set<std::string> Bundled::libraries_with_file(const std::string& name) const {
  std::set<std::string> libraries;
  const auto found = files_.find(name);
  if (found == files_.end()) return libraries;
  for (const auto& file : found->second) libraries.insert(library_of(fs::path(file).parent_path()));
  return libraries;
}

std::vector<std::string> Bundled::code_of(const std::set<std::string>& libraries) const {
  std::vector<std::string> code;
  for (const auto& [name, files] : files_) {
    if (!is_source_name(name)) continue;
    for (const auto& file : files) {
      const std::string library = library_of(fs::path(file).parent_path());
      if (libraries.contains(library) && role_of(file.substr(library.size() + 1)) == Role::source) code.push_back(file);
    }
  }
  return code;
}

}  // namespace fibula
