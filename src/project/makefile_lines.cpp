#include "project/makefile_lines.hpp"

#include "base/text.hpp"

namespace fibula {
namespace {

std::string without_comment(std::string_view line) {
  for (size_t at = line.find('#'); at != std::string_view::npos; at = line.find('#', at + 1)) {
    if (at == 0 || line[at - 1] != '\\') return std::string(line.substr(0, at));
  }
  return std::string(line);
}

}  // namespace

std::vector<LogicalLine> logical_lines(const std::string& makefile) {
  std::vector<LogicalLine> lines;
  bool goes_on = false;
  unsigned number = 0;
  for (std::string_view line : text::lines(makefile)) {
    ++number;
    if (line.ends_with('\r')) line.remove_suffix(1);
    if (!goes_on) lines.push_back({.text = {}, .number = number, .recipe = line.starts_with('\t')});
    goes_on = line.ends_with('\\');
    if (goes_on) line.remove_suffix(1);
    lines.back().text += goes_on ? std::string(line) + " " : without_comment(line);
  }
  return lines;
}

}  // namespace fibula
