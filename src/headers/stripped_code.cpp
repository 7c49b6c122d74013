#include "headers/stripped_code.hpp"

#include "base/text.hpp"

#include <algorithm>

namespace fibula {
namespace {

class Stripper {
 public:
  enum class For { declarations, words };
  Stripper(std::string_view text, For purpose) : text_(text), purpose_(purpose) {}

  std::string strip() {
    while (at_ < text_.size()) step();
    return std::move(result_);
  }

 private:
  bool ahead(std::string_view what) const { return text_.substr(at_, what.size()) == what; }

  void step() {
    const char c = text_[at_];
    if (ahead("//")) {
      skip_line();
    } else if (ahead("/*")) {
      const size_t end = text_.find("*/", at_ + 2);
      at_ = end == std::string_view::npos ? text_.size() : end + 2;
      result_ += ' ';
    } else if (c == '#' && line_is_blank_ && (purpose_ == For::declarations || !has_code())) {
      skip_line();
    } else if (c == '"' || c == '\'') {
      skip_literal(c);
    } else if (c == '@' && purpose_ == For::declarations) {
      skip_objective_c();
    } else {
      line_is_blank_ = c == '\n' || (line_is_blank_ && (c == ' ' || c == '\t'));
      result_ += c;
      ++at_;
    }
  }

  /// Whether a line of the preprocessor, which begins here, has code in it.
  bool has_code() const {
    const size_t word = text_.find_first_not_of(" \t", at_ + 1);
    const std::string_view rest = word == std::string_view::npos ? std::string_view() : text_.substr(word);
    return std::none_of(std::begin(codeless), std::end(codeless),
                        [&](std::string_view directive) { return rest.starts_with(directive); });
  }

  /// To the end of the line, or of its continuation.
  void skip_line() {
    while (at_ < text_.size() && text_[at_] != '\n') at_ += text_[at_] == '\\' ? 2U : 1U;
  }

  void skip_literal(char quote) {
    // A digit separator, 1'000, is no literal.
    const bool separator = quote == '\'' && at_ > 0 && text::is_identifier_character(text_[at_ - 1]);
    ++at_;
    if (separator) return;
    while (at_ < text_.size() && text_[at_] != quote && text_[at_] != '\n') at_ += text_[at_] == '\\' ? 2U : 1U;
    ++at_;
    result_ += "\"\"";
  }

  /// `@interface` and `@protocol` go to their `@end`, and what only names things to a semicolon: no function of C or
  /// C++ is declared there.
  void skip_objective_c() {
    const size_t semicolon = std::min(text_.find(';', at_), text_.size());
    const bool block = ahead("@interface") || ahead("@implementation") ||
                       (ahead("@protocol") && !only_names(text_.substr(at_ + 1, semicolon - at_ - 1)));
    const size_t end = block ? text_.find("@end", at_) : std::string_view::npos;
    const bool names = ahead("@class") || ahead("@protocol") || ahead("@import");
    if (block) {
      at_ = end == std::string_view::npos ? text_.size() : end + 4;
    } else {
      at_ = names ? std::min(semicolon + 1, text_.size()) : at_ + 1;
    }
  }

  static bool only_names(std::string_view text) {
    return std::all_of(text.begin(), text.end(),
                       [](char c) { return text::is_identifier_character(c) || c == ' ' || c == ','; });
  }

  static constexpr std::string_view codeless[] = {"include", "import", "error", "warning", "pragma", "line", "ident"};

  std::string_view text_;
  For purpose_;
  std::string result_;
  size_t at_ = 0;
  bool line_is_blank_ = true;
};

}  // namespace

std::string stripped_code(std::string_view text) {
  return Stripper(text, Stripper::For::declarations).strip();
}

std::string code_with_macros(std::string_view text) {
  return Stripper(text, Stripper::For::words).strip();
}

}  // namespace fibula
