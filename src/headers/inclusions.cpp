#include "headers/inclusions.hpp"

#include "base/text.hpp"
#include "headers/include_lines.hpp"
#include "os/files.hpp"

#include <algorithm>

namespace fibula {
namespace {

void add_included(std::string_view content, std::set<std::string, std::less<>>& names) {
  int depth = 0, c_block = 0;  // the depth inside the outermost extern "C", 0 outside
  for (std::string_view line : text::lines(content)) {
    line = text::trim(line);
    if (auto include = include_line(line); c_block == 0 && !include.name.empty()) names.insert(std::move(include.name));
    if (line.starts_with('#')) continue;
    const bool opens_c =
        line.find("extern \"C\"") != std::string_view::npos && line.find('{') != std::string_view::npos;
    if (opens_c && c_block == 0) c_block = depth + 1;
    depth += static_cast<int>(std::count(line.begin(), line.end(), '{') - std::count(line.begin(), line.end(), '}'));
    if (depth < c_block) c_block = 0;
  }
}

}  // namespace

std::set<std::string, std::less<>> included_as_cxx(const std::vector<fs::path>& files) {
  std::set<std::string, std::less<>> names;
  for (const auto& file : files) {
    if (const auto content = read_text(file)) add_included(*content, names);
  }
  return names;
}

}  // namespace fibula
