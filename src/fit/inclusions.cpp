#include "fit/inclusions.hpp"

#include "base/files.hpp"
#include "base/text.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// `# include <tide.h>` -> tide.h; empty for other lines.
std::string included_name(std::string_view line) {
  if (!line.starts_with('#')) return {};
  line = text::trim(line.substr(1));
  if (!line.starts_with("include")) return {};
  const size_t open = line.find_first_of("<\"");
  const size_t close = open == std::string_view::npos ? open : line.find_first_of(">\"", open + 1);
  return close == std::string_view::npos ? std::string() : std::string(line.substr(open + 1, close - open - 1));
}

bool includes_as_cxx(std::string_view content, const std::set<std::string>& headers) {
  int depth = 0, c_block = 0;  // the depth inside the outermost extern "C", 0 outside
  for (std::string_view line : text::lines(content)) {
    line = text::trim(line);
    if (c_block == 0 && headers.contains(included_name(line))) return true;
    if (line.starts_with('#')) continue;
    const bool opens_c =
        line.find("extern \"C\"") != std::string_view::npos && line.find('{') != std::string_view::npos;
    if (opens_c && c_block == 0) c_block = depth + 1;
    depth += static_cast<int>(std::count(line.begin(), line.end(), '{') - std::count(line.begin(), line.end(), '}'));
    if (depth < c_block) c_block = 0;
  }
  return false;
}

}  // namespace

bool includes_as_cxx(const std::vector<fs::path>& files, const std::set<std::string>& headers) {
  return std::any_of(files.begin(), files.end(), [&](const fs::path& file) {
    const auto content = read_text(file);
    return content && includes_as_cxx(*content, headers);
  });
}

}  // namespace fibula
