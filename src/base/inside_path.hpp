/// Names and paths that come from elsewhere, checked before anything is made of them.
#pragma once

#include <fibula/result.hpp>

#include <optional>
#include <string>
#include <string_view>

namespace fibula {

/// Whether a text can be the name of a library or a version: letters, digits, `_ . + - ~`, no dot in front.
bool is_plain_name(std::string_view name);

/// Whether a text can be the name of a lane, an output or a variant, and so of one file or folder on every system: no
/// separator, no control character, nothing that a command would take for an option or a system hides; UTF-8, at most
/// 200 bytes.
bool is_file_name(std::string_view name);

/// Whether a control character of ASCII is in a text.
bool has_control(std::string_view text);

/// A path that cannot lead out of the folder that it is put behind: relative, `/` between its parts, none of them
/// empty, `.` or `..`, no separator of another system, no control character, UTF-8. What it names may still be a link:
/// see `Folder`.
class InsidePath {
 public:
  static std::optional<InsidePath> of(std::string_view text);
  /// Why a text is none: "leads out of the folder"; "has a control character in it".
  static std::string why_not(std::string_view text);

  const std::string& text() const { return text_; }

 private:
  explicit InsidePath(std::string text) : text_(std::move(text)) {}
  std::string text_;
};

}  // namespace fibula
