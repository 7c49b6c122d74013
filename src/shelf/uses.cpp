#include "shelf/uses.hpp"

#include "base/digest.hpp"
#include "base/text.hpp"
#include "os/folder.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

std::string folder_of_uses(const std::string& name, const std::string& version) {
  return fmt::format(".used/{}/{}", name, version);
}

std::chrono::system_clock::time_point time_of(const fs::path& file) {
  std::error_code ignored;
  const auto since = fs::last_write_time(file, ignored) - fs::file_time_type::clock::now();
  return std::chrono::system_clock::now() + std::chrono::duration_cast<std::chrono::system_clock::duration>(since);
}

}  // namespace

void note_use(const fs::path& shelf, const std::string& name, const std::string& version, const fs::path& project) {
  const std::string note = fmt::format("{}/{:016x}", folder_of_uses(name, version), quick_digest(project.string()));
  const fs::path file = shelf / note;
  std::error_code error;
  if (fs::exists(file, error) && std::chrono::system_clock::now() - time_of(file) < std::chrono::hours(24)) return;
  if (const auto folder = Folder::open(shelf)) (void)folder->write(note, project.string() + "\n", Flush::now);
}

std::vector<ShelfUse> uses_of(const fs::path& shelf, const std::string& name, const std::string& version) {
  std::vector<ShelfUse> uses;
  const fs::path folder = shelf / folder_of_uses(name, version);
  for (const auto& file : files_directly_in(folder)) {
    if (const auto project = read_text(folder / file))
      uses.push_back({std::string(text::trim(*project)), time_of(folder / file)});
  }
  std::sort(uses.begin(), uses.end(), [](const ShelfUse& a, const ShelfUse& b) { return a.last > b.last; });
  return uses;
}

void forget_uses(const fs::path& shelf, const std::string& name, const std::string& version) {
  if (const auto folder = Folder::open(shelf)) (void)folder->remove_tree(folder_of_uses(name, version));
}

}  // namespace fibula
