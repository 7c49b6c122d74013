#include "take/sources/code_text.hpp"

#include "base/text.hpp"
#include "headers/declarations.hpp"
#include "take/sources/library_functions.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// What stands behind the `#` of a line; empty for other lines.
std::string_view directive_of(std::string_view line) {
  const auto word = text::trim(line);
  return word.starts_with('#') ? text::trim(word.substr(1)) : std::string_view();
}

/// Whether a line stands in a group of conditions, and none of these compares anything.
bool asks_only_whether_defined(const std::vector<std::string_view>& lines, size_t at) {
  for (int depth = 0; at-- > 0;) {
    const auto directive = directive_of(lines[at]);
    if (directive.starts_with("endif")) ++depth;
    const bool opens = directive.starts_with("if");
    if (depth == 0 && (opens || directive.starts_with("elif")) &&
        directive.find_first_of("<>=") != std::string_view::npos)
      return false;
    if (opens && depth-- == 0) return true;
  }
  return false;
}

/// Whether an ordinary build has its main: a test that a macro asks for is none.
bool starts(std::string_view content) {
  return names_in_source(text_where(content, names_of_linux())).has_main ||
         names_in_source(text_where(content, names_of_windows())).has_main;
}

}  // namespace

std::string without_conditionals(std::string_view content) {
  std::string always;
  int depth = 0;
  for (const auto line : text::lines(content)) {
    const auto directive = directive_of(line);
    if (directive.starts_with("if")) ++depth;
    if (depth == 0) always += std::string(line) + "\n";
    if (directive.starts_with("endif") && depth > 0) --depth;
  }
  return always;
}

bool has_error(std::string_view text) {
  const auto lines = text::lines(text);
  return std::any_of(lines.begin(), lines.end(),
                     [](std::string_view line) { return directive_of(line).starts_with("error"); });
}

bool lacks_macro(std::string_view content, std::string_view seen) {
  const auto all = text::lines(content), shown = text::lines(seen);
  for (size_t at = 0; at < std::min(all.size(), shown.size()); ++at) {
    if (directive_of(shown[at]).starts_with("error") && asks_only_whether_defined(all, at)) return true;
  }
  return false;
}

bool is_refused(std::string_view content, const DefinedNames& defined, bool windows,
                const std::set<std::string>& defines) {
  if (!has_error(content)) return false;
  const auto is_open = [](std::string_view name) {
    return !names_of_linux().contains(name) && !names_of_macos().contains(name) && !names_of_windows().contains(name);
  };
  const bool stands_in = !defines.empty() && std::all_of(defines.begin(), defines.end(), [&](const std::string& name) {
    return is_c99_function(name) || (windows ? is_also_in_mingw(name) : is_posix_function(name));
  });
  return has_error(text_where(content, defined, is_open)) || (stands_in && has_error(text_where(content, defined)));
}

bool is_program(std::string_view content) {
  return content.find("main") != std::string_view::npos && starts(content);
}

}  // namespace fibula
