#include "making/makefile_lines.hpp"

#include "base/text.hpp"
#include "os/files.hpp"

namespace fibula {
namespace {

std::string without_comment(std::string_view line) {
  for (size_t at = line.find('#'); at != std::string_view::npos; at = line.find('#', at + 1)) {
    if (at == 0 || line[at - 1] != '\\') return std::string(line.substr(0, at));
  }
  return std::string(line);
}

/// `a.o: a.c`, and no assignment.
bool begins_rule(std::string_view line) {
  const size_t colon = line.find(':'), equals = line.find('=');
  return colon != std::string_view::npos && colon < equals && !line.substr(colon).starts_with(":=") &&
         !line.substr(colon).starts_with("::=");
}

/// A conditional stands among the lines of a recipe without ending it.
bool says_something_else(std::string_view line) {
  const auto word = text::trim(line);
  return !word.empty() && word[0] != '#' && !word.starts_with("if") && !word.starts_with("else") &&
         !word.starts_with("endif");
}

}  // namespace

std::vector<LogicalLine> logical_lines(const std::string& makefile) {
  std::vector<LogicalLine> lines;
  bool goes_on = false, in_rule = false;
  unsigned number = 0;
  for (std::string_view line : text::lines(makefile)) {
    ++number;
    if (line.ends_with('\r')) line.remove_suffix(1);
    if (!goes_on) {
      // Behind a tab stands a recipe, where there is a rule for it (GNU make manual, "Rule Syntax").
      const bool tab = line.starts_with('\t');
      if (!tab && says_something_else(line)) in_rule = begins_rule(line);
      lines.push_back({.text = {}, .number = number, .recipe = tab && in_rule});
    }
    goes_on = line.ends_with('\\');
    if (goes_on) line.remove_suffix(1);
    lines.back().text += goes_on ? std::string(line) + " " : without_comment(line);
  }
  return lines;
}

bool is_makefile_name(const std::string& file) {
  const std::string name = text::lower(fs::path(file).filename().string());
  return name == "makefile" || name == "gnumakefile" || name == "makefile.in" || name == "makefile.am" ||
         name.ends_with(".mk");
}

}  // namespace fibula
