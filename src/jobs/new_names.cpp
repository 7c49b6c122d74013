#include "jobs/new_names.hpp"

#include <algorithm>
#include <filesystem>

namespace fibula {

namespace fs = std::filesystem;

Stamp state_of_folder(const std::string& folder) {
  Stamp stamp = stamp_at(folder.c_str());
  // What comes within this tick could leave the folder with the time that it has now.
  stamp.changed = std::min(stamp.changed, stamp_clock() - stamp_tick);
  return stamp;
}

std::vector<std::string> names_since(const std::string& folder, const Stamp& state) {
  std::vector<std::string> names;
  const Stamp now = stamp_at(folder.c_str());
  const bool another = !now.same_file(state) || now.changed < state.changed;
  std::error_code error;
  for (fs::directory_iterator entry(folder, error), end; !error && entry != end; entry.increment(error)) {
    if (another || stamp_of_link(entry->path()).changed >= state.changed)
      names.push_back(entry->path().filename().string());
  }
  return names;
}

std::string hidden_by(const std::string& folder, const std::string& name, const std::string& file) {
  for (size_t at = file.find(name); at != std::string::npos; at = file.find(name, at + 1)) {
    const size_t end = at + name.size();
    const bool whole = at > 0 && file[at - 1] == '/' && (end == file.size() || file[end] == '/');
    if (!whole) continue;
    const std::string other = folder + "/" + file.substr(at);
    const Stamp stamp = stamp_at(other.c_str());
    if (other != file && stamp.is_file() && !stamp.same_file(stamp_at(file.c_str()))) return other;
  }
  return {};
}

}  // namespace fibula
