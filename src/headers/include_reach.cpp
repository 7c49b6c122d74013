#include "headers/include_reach.hpp"

#include "headers/include_lines.hpp"
#include "headers/well_known_headers.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"

#include <algorithm>

namespace fibula {
namespace {

bool is_file(const fs::path& path) {
  return stamp_of(path).is_file();
}

}  // namespace

bool IncludeReach::reaches_all(const std::string& name) {
  const auto file = find(name);
  return !file.empty() && reaches_all(file);
}

// NOLINTNEXTLINE(misc-no-recursion): each file is entered once
bool IncludeReach::reaches_all(const fs::path& file) {
  // While it is looked at it counts as sound: headers that include each other are.
  const auto [known, fresh] = known_.try_emplace(file, true);
  if (!fresh) return known->second;
  const auto content = read_text(file);
  const auto lines = content ? include_lines(*content) : std::vector<IncludeLine>();
  const bool sound = std::all_of(lines.begin(), lines.end(), [&](const IncludeLine& line) {
    if (line.conditional) return true;
    if (!cxx_ && !line.quoted && standard_header(line.name) == StandardHeader::of_cxx) return false;
    const fs::path beside = line.quoted ? (file.parent_path() / line.name).lexically_normal() : fs::path();
    const fs::path found = !beside.empty() && is_file(beside) ? beside : find(line.name);
    return !found.empty() && reaches_all(found);
  });
  return known_[file] = sound;
}

fs::path IncludeReach::find(const std::string& name) const {
  for (const auto& directory : directories_) {
    fs::path path = (directory / name).lexically_normal();
    if (is_file(path)) return path;
  }
  return {};
}

}  // namespace fibula
