#include "os/file_digest.hpp"

#include "base/digest.hpp"
#include "os/mapped_file.hpp"

#include <algorithm>
#include <vector>

namespace fibula {

Result<std::string> sha256_of_file(const std::filesystem::path& path) {
  auto file = MappedFile::open(path);
  if (!file) return pass(file);
  return sha256((*file)->bytes().text());
}

Result<uint64_t> quick_digest_of_file(const std::filesystem::path& path) {
  auto file = MappedFile::open(path);
  if (!file) return pass(file);
  return quick_digest((*file)->bytes().text());
}

uint64_t quick_digest_of_names(const std::filesystem::path& folder) {
  std::vector<std::string> names;
  std::error_code error;
  for (std::filesystem::directory_iterator entry(folder, error), end; !error && entry != end; entry.increment(error)) {
    std::error_code unknown;
    names.push_back(entry->path().filename().string() + '\0' + static_cast<char>(entry->status(unknown).type()));
  }
  std::sort(names.begin(), names.end());
  std::string all;
  for (const auto& name : names) all += name;
  return quick_digest(all) | 1U;
}

bool has_same_content(const std::filesystem::path& one, const std::filesystem::path& other) {
  std::error_code error;
  if (std::filesystem::equivalent(one, other, error)) return true;
  if (error || std::filesystem::file_size(one, error) != std::filesystem::file_size(other, error)) return false;
  const auto a = quick_digest_of_file(one), b = quick_digest_of_file(other);
  return a && b && *a == *b;
}

}  // namespace fibula
