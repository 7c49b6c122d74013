#include "build/commands_note.hpp"

#include "base/text.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

fs::path note_of(const Project& project) {
  return project.root() / ".fibula" / "commands";
}

std::string stamp_line(const Project& project) {
  return to_text(stamp_of(project.root() / "compile_commands.json"));
}

/// A line for each lane of the project that is known, and the file's stamp.
std::string note_text(const Project& project, const std::map<std::string, std::string>& lines) {
  std::string text;
  for (const auto& lane : project.lanes()) {
    const auto line = lines.find(lane.name);
    text += line == lines.end() ? "" : fmt::format("{} {}\n", lane.name, line->second);
  }
  return text + stamp_line(project) + "\n";
}

/// What the note says of each lane.
std::map<std::string, std::string> noted_lines(const std::string& text) {
  std::map<std::string, std::string> lines;
  for (const auto line : text::split(text, '\n')) {
    const size_t space = line.rfind(' ');
    if (space != std::string_view::npos) lines[std::string(line.substr(0, space))] = line.substr(space + 1);
  }
  return lines;
}

std::map<std::string, std::string> with(std::map<std::string, std::string> lines, const CommandDigests& digests) {
  for (const auto& [lane, digest] : digests) lines[lane] = fmt::format("{:016x}", digest);
  return lines;
}

}  // namespace

bool is_database_fresh(const Project& project, const CommandDigests& digests) {
  for (const auto& [lane, digest] : digests) {
    if (digest == 0) return false;
  }
  const auto text = read_text(note_of(project));
  return text && *text == note_text(project, with(noted_lines(*text), digests));
}

void note_database(const Project& project, const CommandDigests& digests) {
  const auto before = noted_lines(read_text(note_of(project)).value_or(""));
  // Where it cannot be noted, the database is written again the next time.
  static_cast<void>(write_if_changed_in(project.root(), shown_from(project.root(), note_of(project)),
                                        note_text(project, with(before, digests))));
}

}  // namespace fibula
