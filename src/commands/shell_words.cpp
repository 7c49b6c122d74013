#include "commands/shell_words.hpp"

#include "base/text.hpp"

#include <algorithm>

namespace fibula {
namespace {

class ShellLine {
 public:
  explicit ShellLine(std::string_view line) : line_(line) {}

  std::vector<std::vector<std::string>> read() && {
    while (at_ < line_.size()) step();
    end_command();
    return std::move(commands_);
  }

 private:
  void step() {
    const char c = line_[at_++];
    switch (c) {
      case ' ':
      case '\t': return end_word();
      case ';':
      case '&':
      case '|': return end_command();
      case '\'': return single_quoted();
      case '"': return double_quoted();
      case '<':
      case '>': return redirection();
      case '\\':
        if (at_ < line_.size()) put(line_[at_++]);
        return;
      default: put(c);
    }
  }

  void put(char c) {
    word_ += c;
    inside_ = true;
  }

  void single_quoted() {
    inside_ = true;
    while (at_ < line_.size() && line_[at_] != '\'') word_ += line_[at_++];
    ++at_;
  }

  void double_quoted() {
    inside_ = true;
    while (at_ < line_.size() && line_[at_] != '"') {
      const bool escape =
          line_[at_] == '\\' && at_ + 1 < line_.size() && std::string_view("\"\\$`").find(line_[at_ + 1]) < 4;
      at_ += escape ? 1 : 0;
      word_ += line_[at_++];
    }
    ++at_;
  }

  /// `2>file`, `>&2`: no words of the command. A number before it is the descriptor's.
  void redirection() {
    if (word_.find_first_not_of("0123456789") == std::string::npos) word_.clear();
    inside_ = !word_.empty();
    end_word();
    while (at_ < line_.size() && std::string_view("<>& ").find(line_[at_]) != std::string_view::npos) ++at_;
    skip_ = true;
  }

  void end_word() {
    if (!inside_) return;
    const size_t equals = word_.find('=');
    const bool assignment =
        words_.empty() && equals != std::string::npos && equals > 0 &&
        std::all_of(word_.begin(), word_.begin() + static_cast<std::ptrdiff_t>(equals), text::is_identifier_character);
    if (!assignment && !skip_) words_.push_back(std::move(word_));
    skip_ = false;
    word_.clear();
    inside_ = false;
  }

  void end_command() {
    end_word();
    skip_ = false;
    if (!words_.empty()) commands_.push_back(std::move(words_));
    words_.clear();
  }

  std::string_view line_;
  size_t at_ = 0;
  std::string word_;
  bool inside_ = false;  ///< a word has begun, if only with an empty quote
  bool skip_ = false;    ///< the word is where a redirection leads
  std::vector<std::string> words_;
  std::vector<std::vector<std::string>> commands_;
};

}  // namespace

std::vector<std::vector<std::string>> shell_commands(std::string_view line) {
  return ShellLine(line).read();
}

std::vector<std::string> windows_words(std::string_view line) {
  std::vector<std::string> words;
  std::string word;
  bool inside = false, quoted = false;
  for (size_t i = 0; i < line.size(); ++i) {
    size_t slashes = 0;
    while (i < line.size() && line[i] == '\\') ++slashes, ++i;
    const bool before_quote = i < line.size() && line[i] == '"';
    word.append(before_quote ? slashes / 2 : slashes, '\\');
    inside = inside || slashes > 0;
    if (i == line.size()) break;
    if (before_quote && slashes % 2 == 0) {
      quoted = !quoted;
      inside = true;
    } else if (!quoted && (line[i] == ' ' || line[i] == '\t')) {
      if (inside) words.push_back(std::move(word));
      word.clear();
      inside = false;
    } else {
      word += line[i];
      inside = true;
    }
  }
  if (inside) words.push_back(std::move(word));
  return words;
}

}  // namespace fibula
