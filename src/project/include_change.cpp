#include "project/include_change.hpp"

#include "base/text.hpp"
#include "os/files.hpp"

namespace fibula {

std::string line_of(const fs::path& file, size_t number) {
  const auto text = read_text(file);
  if (!text || number == 0) return {};
  const auto lines = text::lines(*text);
  return number <= lines.size() ? std::string(lines[number - 1]) : std::string();
}

std::optional<ProjectChange> include_change(const fs::path& file, size_t line, const std::string& name,
                                            const std::string& by) {
  const std::string before = line_of(file, line);
  const size_t at = before.find(name);
  if (at == std::string::npos) return std::nullopt;
  return ProjectChange{.kind = ProjectChange::Kind::line,
                       .file = file,
                       .line = line,
                       .before = before,
                       .after = std::string(before).replace(at, name.size(), by)};
}

}  // namespace fibula
