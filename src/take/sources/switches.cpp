#include "take/sources/switches.hpp"

#include "base/text.hpp"
#include "os/files.hpp"

#include <algorithm>

namespace fibula {
namespace {

bool says_without(const std::string& macro) {
  static constexpr std::string_view words[] = {"NO", "WITHOUT", "DISABLE", "DISABLED", "OMIT", "EXCLUDE", "SKIP"};
  const auto parts = text::split(text::upper(macro), '_');
  return parts.size() > 1 && std::any_of(std::begin(words), std::end(words), [&](std::string_view word) {
           return std::find(parts.begin(), parts.end(), word) != parts.end();
         });
}

/// What an ordinary build includes and nobody has, of headers that no system alone has.
std::set<std::string> missed(const std::string& text, const std::string& file, const CodeTree& tree) {
  std::set<std::string> names;
  for (const auto& line : include_lines(text)) {
    if (!tree.is_there(line.name, file) && system_of_source("", {line.name}).everywhere()) names.insert(line.name);
  }
  return names;
}

}  // namespace

std::map<std::string, std::string> switches_without(const Source& source, const CodeTree& tree) {
  std::map<std::string, std::string> found;
  for (const auto& [file, code] : tree.files()) {
    const std::string text = read_text(source.root / file).value_or("");
    DefinedNames tested;
    note_tested_names(text, tested);
    std::erase_if(
        tested, [&](const std::string& name) { return !says_without(name) || !tree.macros().is_never_defined(name); });
    if (tested.empty()) continue;
    const auto before = missed(text_where(text, names_of_linux()), file, tree);
    for (const auto& macro : before.empty() ? DefinedNames() : tested) {
      DefinedNames defined = names_of_linux();
      defined.insert(macro);
      const auto after = missed(text_where(text, std::move(defined)), file, tree);
      for (const auto& header : before) {
        if (!after.contains(header)) found.emplace(macro, header);
      }
    }
  }
  return found;
}

}  // namespace fibula
