#include "facts/declarations.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Drops comments, preprocessor lines and the contents of literals; everything else stays in place.
class Stripper {
 public:
  explicit Stripper(std::string_view text) : text_(text) {}

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
    } else if (c == '#' && line_is_blank_) {
      skip_line();
    } else if (c == '"' || c == '\'') {
      skip_literal(c);
    } else {
      line_is_blank_ = c == '\n' || (line_is_blank_ && (c == ' ' || c == '\t'));
      result_ += c;
      ++at_;
    }
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

  std::string_view text_;
  std::string result_;
  size_t at_ = 0;
  bool line_is_blank_ = true;
};

bool has_word(std::string_view text, std::string_view word) {
  for (size_t at = text.find(word); at != std::string_view::npos; at = text.find(word, at + 1)) {
    const bool starts = at == 0 || !text::is_identifier_character(text[at - 1]);
    const size_t end = at + word.size();
    if (starts && (end == text.size() || !text::is_identifier_character(text[end]))) return true;
  }
  return false;
}

size_t closing(std::string_view text, size_t open) {
  int depth = 0;
  for (size_t i = open; i < text.size(); ++i) {
    depth += text[i] == '(' ? 1 : 0;
    depth -= text[i] == ')' ? 1 : 0;
    if (depth == 0) return i;
  }
  return text.size();
}

std::string_view word_before(std::string_view text, size_t end) {
  while (end > 0 && (text[end - 1] == ' ' || text[end - 1] == '\n' || text[end - 1] == '\t')) --end;
  size_t start = end;
  while (start > 0 && text::is_identifier_character(text[start - 1])) --start;
  return text.substr(start, end - start);
}

/// The function that a statement declares or begins: the word before its parameter list. Empty for anything else.
std::string_view function_in(std::string_view statement) {
  static constexpr std::string_view not_functions[] = {"typedef",        "using",  "friend",  "static_assert",
                                                       "_Static_assert", "return", "template"};
  static constexpr std::string_view attributes[] = {"__attribute__", "__declspec", "alignas", "decltype",
                                                    "__asm__",       "noexcept",   "explicit"};
  const auto is_not = [&](std::string_view word) { return has_word(statement, word); };
  if (std::any_of(std::begin(not_functions), std::end(not_functions), is_not)) return {};
  for (size_t open = statement.find('('); open != std::string_view::npos;) {
    const auto name = word_before(statement, open);
    if (std::find(std::begin(attributes), std::end(attributes), name) != std::end(attributes)) {
      open = statement.find('(', closing(statement, open));
      continue;
    }
    const auto inside = text::trim(statement.substr(open + 1));
    const bool pointer = inside.starts_with('*') || inside.starts_with('&');
    const bool initialiser = statement.substr(0, open).find('=') != std::string_view::npos;
    const bool macro_call = text::trim(statement.substr(0, open)) == name;
    const bool number = !name.empty() && name[0] >= '0' && name[0] <= '9';
    return pointer || initialiser || macro_call || number ? std::string_view() : name;
  }
  return {};
}

enum class Scope { interface, body };

/// A brace opens either a scope whose declarations count, or a body to be skipped.
Scope scope_of(std::string_view statement) {
  if (has_word(statement, "namespace") || text::trim(statement) == "extern \"\"") return Scope::interface;
  const bool type = has_word(statement, "class") || has_word(statement, "struct") || has_word(statement, "union");
  return type && !has_word(statement, "template") && statement.find('(') == std::string_view::npos ? Scope::interface : Scope::body;
}

struct Scanner {
  std::vector<std::string> declared;
  std::set<std::string> defined;

  void end_statement(std::string_view statement) {
    const auto name = function_in(statement);
    const bool generated =
        statement.rfind('=') != std::string_view::npos && statement.rfind('=') > statement.rfind(')');
    if (name.empty() || generated || has_word(statement, "inline") || has_word(statement, "constexpr")) return;
    declared.emplace_back(name);
  }

  void scan(std::string_view text) {
    std::string statement;
    std::vector<Scope> scopes;
    const auto counts = [&] { return std::find(scopes.begin(), scopes.end(), Scope::body) == scopes.end(); };
    for (const char c : text) {
      if (c == '{') {
        if (counts()) defined.emplace(function_in(statement));
        scopes.push_back(counts() ? scope_of(statement) : Scope::body);
        statement.clear();
      } else if (c == '}') {
        if (!scopes.empty()) scopes.pop_back();
        statement.clear();
      } else if (c == ';') {
        if (counts()) end_statement(statement);
        statement.clear();
      } else {
        statement += c;
      }
    }
  }
};

}  // namespace

std::vector<std::string> functions_left_to_a_binary(std::string_view text) {
  Scanner scanner;
  scanner.scan(Stripper(text).strip());
  std::vector<std::string> left;
  std::set<std::string> seen = scanner.defined;
  for (auto& name : scanner.declared) {
    if (seen.insert(name).second) left.push_back(std::move(name));
  }
  return left;
}

}  // namespace fibula
