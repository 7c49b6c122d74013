#include "take/sources/makefiles.hpp"

#include "base/text.hpp"
#include "making/makefile_lines.hpp"
#include "os/files.hpp"

#include <algorithm>

namespace fibula {

std::string text_of_makefiles(const Source& source) {
  constexpr size_t most = 200;  // a tree has one a folder
  std::string all;
  size_t read = 0;
  for (const auto& file : source.goes_along) {
    if (is_makefile_name(file) && ++read < most) all += read_text(source.root / file).value_or("") + "\n";
  }
  return all;
}

bool is_forced_in(std::string_view makefiles, std::string_view header) {
  constexpr std::string_view option = "-include ";
  for (size_t at = makefiles.find(option); at != std::string_view::npos; at = makefiles.find(option, at + 1)) {
    const auto words = text::words(makefiles.substr(at + option.size(), 200));
    if (!words.empty() && (words[0] == header || words[0].ends_with("/" + std::string(header)))) return true;
  }
  return false;
}

bool is_made_by(std::string_view makefiles, const std::string& name) {
  const auto lines = text::lines(makefiles);
  return std::any_of(lines.begin(), lines.end(), [&](std::string_view line) {
    const size_t end = line.find(':');
    if (end == std::string_view::npos || line.starts_with('\t') || line.starts_with('#')) return false;
    const auto targets = text::words(line.substr(0, end));
    return std::any_of(targets.begin(), targets.end(), [&](std::string_view target) {
      return target == name || target.ends_with("/" + name) || target.ends_with(")" + name);
    });
  });
}

}  // namespace fibula
