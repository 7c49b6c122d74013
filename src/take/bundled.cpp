#include "take/bundled.hpp"

#include "os/files.hpp"
#include "take/file_roles.hpp"

namespace fibula {

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
  fs::path folder;
  for (const auto& part : fs::path(directory_with(name))) {
    const bool is_among_others = role_of((folder / "x").generic_string()) == Role::foreign;
    folder /= part;
    if (is_among_others) break;
  }
  return folder.generic_string();
}

}  // namespace fibula
