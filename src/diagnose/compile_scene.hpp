/// What is complained about in a compile, and edits of its command, tried.
#pragma once

#include "diagnose/findings.hpp"
#include "diagnose/split_words.hpp"

namespace fibula {

/// `main.cpp:3:10`, `main.cpp(3,10)` -> the file, and the line.
struct Position {
  std::string file;
  size_t line = 0;
};
/// Line 0 where there is none.
inline Position position_of(std::string_view where) {
  size_t at = where.find_first_of(":(", where.size() > 2 && where[1] == ':' ? 2 : 0);
  Position position{std::string(where.substr(0, at))};
  if (at == std::string_view::npos) return position;
  for (++at; at < where.size() && where[at] >= '0' && where[at] <= '9'; ++at)
    position.line = position.line * 10 + static_cast<size_t>(where[at] - '0');
  return position;
}

class CompileScene {
 public:
  /// `of`: null where the command is not known.
  CompileScene(const ToolCommand* of, Evidence& by) : command_(of), evidence_(by) {}

  Finding start(std::string_view cause, const std::string& subject) const {
    return {.cause = std::string(cause), .stage = "compile", .subject = subject, .certainty = "read"};
  }
  fs::path folder() const { return command_ != nullptr ? command_->folder : absolute_path(evidence_.context().folder); }
  std::string shown(const fs::path& file) const { return shown_from(folder(), file); }
  std::string shown_position(const Position& at) const {
    const std::string file = shown(place(at.file));
    return at.line == 0 ? file : fmt::format("{}:{}", file, at.line);
  }
  fs::path place(const std::string& file) const { return (folder() / file).lexically_normal(); }

  std::optional<Finding> in_two_words() const {
    return command_ == nullptr ? std::nullopt : path_in_two_words(*command_, "compile");
  }

  // Edits of the command, tried.

  bool can_try() const { return command_ != nullptr && !command_->sources.empty() && evidence_.may_run(*command_); }
  /// How trying went that helped nothing.
  std::string attempts() const { return can_try() ? "; nothing that was tried made it compile" : ""; }

  bool compiles(const Words& words) {
    if (command_ == nullptr || command_->sources.empty()) return false;
    const ToolCommand changed = read_command(words, command_->folder);
    return std::all_of(changed.sources.begin(), changed.sources.end(),
                       [&](const CommandFile& source) { return evidence_.compile(changed, source.path).good; });
  }

  Words with_option(const std::string& gnu, const std::string& msvc) const {
    Words words = command_->words;
    words.insert(words.begin() + 1, command_->family == CompilerFamily::msvc ? msvc : gnu);
    return words;
  }
  Words with_folder(const fs::path& folder_of) const {
    return with_option("-I" + shown(folder_of), "/I" + shown(folder_of));
  }

 protected:
  void edit_command(Finding& finding, const Words& words) {
    set_command(finding, *command_, words);
    finding.tried = compiles(words);
  }

  const ToolCommand* command_;
  Evidence& evidence_;
};

/// Why a header is not found.
Finding missing_header(const Complaint& complaint, const ToolCommand* command, Evidence& evidence);

}  // namespace fibula
