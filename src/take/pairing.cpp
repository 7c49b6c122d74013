#include "take/pairing.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <filesystem>
#include <tuple>

namespace fibula {
namespace {

namespace fs = std::filesystem;

std::vector<std::string> folders_of(const std::string& path) {
  std::vector<std::string> folders;
  for (const auto& part : fs::path(path).parent_path()) folders.push_back(text::lower(part.string()));
  return folders;
}

size_t common_start(const std::string& one, const std::string& other) {
  const auto differ = std::mismatch(one.begin(), one.end(), other.begin(), other.end());
  return static_cast<size_t>(differ.first - one.begin());
}

}  // namespace

size_t folders_in_common(const std::string& one, const std::string& other) {
  auto left = folders_of(other);
  size_t common = 0;
  for (const auto& folder : folders_of(one)) {
    const auto found = std::find(left.begin(), left.end(), folder);
    if (found == left.end()) continue;
    left.erase(found);
    ++common;
  }
  return common;
}

std::optional<size_t> dll_behind(const PairedFile& import, const std::vector<PairedFile>& files) {
  if (!import.facts->soname) return std::nullopt;
  const std::string wanted = text::lower(*import.facts->soname.value);
  std::optional<size_t> best;
  std::tuple<size_t, size_t> nearness;
  for (size_t i = 0; i < files.size(); ++i) {
    const auto& file = files[i];
    if (text::lower(fs::path(file.path).filename().string()) != wanted) continue;
    if (file.facts->arch.value != import.facts->arch.value || file.facts->kind.value == Kind::import_library) continue;
    const std::tuple near{folders_in_common(file.path, import.path), common_start(file.path, import.path)};
    if (best && near <= nearness) continue;
    best = i;
    nearness = near;
  }
  return best;
}

}  // namespace fibula
