#include "shelf/uses.hpp"

#include "base/digest.hpp"
#include "base/text.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

fs::path folder_of_uses(const fs::path& shelf, const std::string& name, const std::string& version) {
  return shelf / ".used" / name / version;
}

std::chrono::system_clock::time_point time_of(const fs::path& file) {
  std::error_code ignored;
  const auto since = fs::last_write_time(file, ignored) - fs::file_time_type::clock::now();
  return std::chrono::system_clock::now() + std::chrono::duration_cast<std::chrono::system_clock::duration>(since);
}

}  // namespace

void note_use(const fs::path& shelf, const std::string& name, const std::string& version, const fs::path& project) {
  const fs::path folder = folder_of_uses(shelf, name, version);
  const fs::path file = folder / fmt::format("{:016x}", quick_digest(project.string()));
  std::error_code error;
  if (fs::exists(file, error) && std::chrono::system_clock::now() - time_of(file) < std::chrono::hours(24)) return;
  if (make_folder(folder)) (void)write_whole(file, project.string() + "\n");
}

std::vector<ShelfUse> uses_of(const fs::path& shelf, const std::string& name, const std::string& version) {
  std::vector<ShelfUse> uses;
  const fs::path folder = folder_of_uses(shelf, name, version);
  for (const auto& file : files_directly_in(folder)) {
    if (const auto project = read_text(folder / file))
      uses.push_back({std::string(text::trim(*project)), time_of(folder / file)});
  }
  std::sort(uses.begin(), uses.end(), [](const ShelfUse& a, const ShelfUse& b) { return a.last > b.last; });
  return uses;
}

void forget_uses(const fs::path& shelf, const std::string& name, const std::string& version) {
  std::error_code ignored;
  fs::remove_all(folder_of_uses(shelf, name, version), ignored);
}

}  // namespace fibula
