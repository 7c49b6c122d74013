/// What is complained about in a compile, and edits of its command, tried.
#pragma once

#include "diagnose/findings.hpp"
#include "diagnose/split_words.hpp"

#include <fmt/format.h>

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

  /// What is complained about, in words.
  static std::string said(const Complaint& complaint) {
    return complaint.kind == Complaint::Kind::unknown_name ? fmt::format("nothing declares {}", complaint.name)
                                                           : complaint.name;
  }

  bool is_cxx_command() const {
    if (command_->words[0].find("++") != std::string::npos) return true;
    return std::any_of(command_->sources.begin(), command_->sources.end(),
                       [](const CommandFile& s) { return s.path.extension() != ".c"; });
  }

  /// The sources as C++, whatever their names are.
  Words as_cxx() const {
    Words words = command_->words;
    const Words language{"-x", "c++"};
    words.insert(words.begin() + static_cast<std::ptrdiff_t>(command_->sources.front().word), language.begin(),
                 language.end());
    return words;
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
  /// The source of the command that is complained about: compilers do not always tell how they came to a header.
  fs::path source_of(const Complaint& complaint) {
    const std::string& begin = complaint.included_from.empty() ? complaint.user : complaint.included_from.back();
    const fs::path told = place(position_of(begin).file);
    for (const auto& source : command_->sources) {
      if (source.path == told) return told;
    }
    for (const auto& source : command_->sources) {
      if (!evidence_.compile(*command_, source.path).good) return source.path;
    }
    return command_->sources.front().path;
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

/// Headers in the command's folder, or below, that were filled in for a configure step and leave something open.
std::vector<fs::path> headers_left_open(const ToolCommand* command);

/// Why a header is not found.
Finding missing_header(const Complaint& complaint, const ToolCommand* command, Evidence& evidence);

/// A web page, a pointer text, marks of a merge, where a header belongs. Paths as seen from `folder`.
std::optional<Finding> odd_header(const Complaint& complaint, const fs::path& folder);
/// A folder of the command that comes before the compiler's own and gives headers of the standard library's names, or
/// is one of them; without it, it compiles.
std::optional<Finding> folder_in_the_way(const Complaint& complaint, const ToolCommand& command, Evidence& evidence);
/// An option without which a library's header compiles; warnings of it that count as errors.
std::optional<Finding> option_in_the_way(const Complaint& complaint, const ToolCommand& command, Evidence& evidence);
/// A macro that the project's own makefile or configure script defines. `command` may be null.
std::optional<Finding> handed_over(const Complaint& complaint, const ToolCommand* command, Evidence& evidence);
/// Threads that the compiler's C++ library does not have, since GCC for Windows was made with the model win32.
std::optional<Finding> other_thread_model(const Complaint& complaint, const ToolCommand& command, Evidence& evidence);
/// Two headers that do not go together in a source: a macro of one takes a name of the other, or both define the same.
std::optional<Finding> header_conflict(const Complaint& complaint, const ToolCommand& command, Evidence& evidence);

}  // namespace fibula
