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
  size_t at = before.find(name);
  if (at == std::string::npos) return std::nullopt;
  // White space between the signs is part of the name, and in a message nobody sees it.
  size_t end = at + name.size();
  const bool has_signs = by.starts_with('"');
  while (at > 0 && before[at - 1] == ' ') --at;
  while (end < before.size() && before[end] == ' ') ++end;
  if (has_signs && (at == 0 || end == before.size())) return std::nullopt;
  std::string after = has_signs ? before.substr(0, at - 1) + by + before.substr(end + 1)
                                : before.substr(0, at) + by + before.substr(end);
  if (after == before) return std::nullopt;
  return ProjectChange{
      .kind = ProjectChange::Kind::line, .file = file, .line = line, .before = before, .after = std::move(after)};
}

}  // namespace fibula
