#include "diagnose/start_words.hpp"

#include "base/text.hpp"
#include "os/files.hpp"

#include <algorithm>

namespace fibula {

std::vector<fs::path> library_variable(const std::vector<std::string>& words, const fs::path& folder) {
  constexpr std::string_view name = "LD_LIBRARY_PATH=";
  std::string value = environment("LD_LIBRARY_PATH").value_or(std::string());
  for (const auto& word : words) {
    if (word.starts_with(name)) value = word.substr(name.size());
  }
  std::vector<fs::path> folders;
  if (value.empty()) return folders;
  std::replace(value.begin(), value.end(), ';', ':');
  for (const auto entry : text::split(value, ':')) folders.push_back((folder / entry).lexically_normal());
  return folders;
}

}  // namespace fibula
