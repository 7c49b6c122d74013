#include "headers/conditionals.hpp"

#include "base/text.hpp"

namespace fibula {
namespace {

using Names = std::set<std::string, std::less<>>;

/// Evaluates `#if` expressions (C 2018, 6.10.1) in which only `defined` matters: comparisons of versions and other
/// macros' values count as false, like names that are not defined.
class Condition {
 public:
  Condition(std::string_view text, const Names& defined) : text_(text), defined_(defined) {}
  bool evaluate() { return either(); }

 private:
  void skip() {
    while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t')) ++at_;
  }
  bool take(std::string_view sign) {
    skip();
    if (text_.substr(at_, sign.size()) != sign) return false;
    at_ += sign.size();
    return true;
  }
  std::string_view word() {
    skip();
    const size_t start = at_;
    while (at_ < text_.size() && text::is_identifier_character(text_[at_])) ++at_;
    return text_.substr(start, at_ - start);
  }
  bool either() {
    bool value = both();
    while (take("||")) value = both() || value;
    return value;
  }
  bool both() {
    bool value = single();
    while (take("&&")) value = single() && value;
    return value;
  }
  bool single() {
    if (depth_++ > 200) return false;
    bool value = false;
    if (take("!")) {
      value = !single();
    } else if (take("(")) {
      value = either();
      take(")");
    } else {
      value = name_or_number();
    }
    --depth_;
    return comparison(value);
  }
  /// `__GNUC__ >= 4`: true where the name is defined, since compilers of today are newer than what headers ask for.
  bool comparison(bool left) {
    for (const std::string_view sign : {">=", "<=", "==", "!=", ">", "<"}) {
      if (!take(sign)) continue;
      word();
      return left && sign[0] != '<';
    }
    return left;
  }
  bool name_or_number() {
    const auto name = word();
    if (name.empty()) {
      if (at_ < text_.size()) ++at_;  // a sign that means nothing here
      return false;
    }
    if (name == "defined") {
      const bool parenthesis = take("(");
      const bool value = defined_.contains(word());
      if (parenthesis) take(")");
      return value;
    }
    if (name[0] >= '0' && name[0] <= '9') return name.find_first_not_of('0') != std::string_view::npos;
    return defined_.contains(name);
  }

  std::string_view text_;
  const Names& defined_;
  size_t at_ = 0;
  int depth_ = 0;
};

/// Directives with their continuations joined; comments behind them cut off.
std::vector<std::pair<std::string, unsigned>> directive_lines(std::string_view header) {
  std::vector<std::pair<std::string, unsigned>> found;
  unsigned number = 0;
  bool continued = false;
  for (std::string_view line : text::lines(header)) {
    ++number;
    line = text::trim(line);
    if (!continued && !line.starts_with('#')) continue;
    if (!continued) found.emplace_back("", number);
    continued = line.ends_with('\\');
    if (continued) line.remove_suffix(1);
    for (const std::string_view comment : {"//", "/*"}) line = line.substr(0, line.find(comment));
    found.back().first += std::string(line) + " ";
  }
  return found;
}

std::vector<std::string_view> identifiers(std::string_view text) {
  std::vector<std::string_view> words;
  for (size_t at = 0; at < text.size();) {
    size_t end = at;
    while (end < text.size() && text::is_identifier_character(text[end])) ++end;
    if (end > at) words.push_back(text.substr(at, end - at));
    at = end + 1;
  }
  return words;
}

enum class Declares { plain, imports, exports };

/// Where the header's API macro leads when these names are defined.
class Walk {
 public:
  Walk(const std::vector<std::pair<std::string, unsigned>>& lines, Names defined) : defined_(std::move(defined)) {
    for (const auto& [text, number] : lines) step(text, number);
  }
  Declares outcome = Declares::plain;
  unsigned line = 0;

 private:
  struct Branch {
    bool taken, active, outer;
  };
  bool active() const { return branches_.empty() || branches_.back().active; }

  void step(std::string_view text, unsigned number) {
    text = text::trim(text.substr(1));
    size_t end = 0;
    while (end < text.size() && text::is_identifier_character(text[end])) ++end;
    const auto word = text.substr(0, end), rest = text::trim(text.substr(end));
    if (word == "if" || word == "ifdef" || word == "ifndef") {
      open(word, rest);
    } else if ((word == "elif" || word == "else") && !branches_.empty()) {
      Branch& branch = branches_.back();
      branch.active = branch.outer && !branch.taken && (word == "else" || Condition(rest, defined_).evaluate());
      branch.taken = branch.taken || branch.active;
    } else if (word == "endif" && !branches_.empty()) {
      branches_.pop_back();
    } else if (word == "define" && active()) {
      define(rest, number);
    } else if (word == "undef" && active()) {
      defined_.erase(std::string(rest));
    }
  }

  void open(std::string_view word, std::string_view rest) {
    const bool outer = active();
    const std::string_view name = rest.substr(0, rest.find_first_of(" \t"));
    const bool value =
        word == "if" ? Condition(rest, defined_).evaluate() : defined_.contains(name) == (word == "ifdef");
    branches_.push_back({outer && value, outer && value, outer});
  }

  void define(std::string_view rest, unsigned number) {
    size_t end = 0;
    while (end < rest.size() && text::is_identifier_character(rest[end])) ++end;
    defined_.emplace(rest.substr(0, end));
    const auto value = rest.substr(end);
    const bool imports = value.find("dllimport") != std::string_view::npos;
    if (!imports && value.find("dllexport") == std::string_view::npos) return;
    outcome = imports ? Declares::imports : Declares::exports;
    if (imports) line = number;
  }

  Names defined_;
  std::vector<Branch> branches_;
};

/// Names that the conditions test and that a user, not a compiler, would define.
Names tested_names(const std::vector<std::pair<std::string, unsigned>>& lines, const Names& predefined) {
  static const Names directives{"if", "ifdef", "ifndef", "elif", "defined"};
  Names tested;
  for (const auto& [text, number] : lines) {
    const auto words = identifiers(text);
    if (words.empty() || words[0] == "defined" || !directives.contains(words[0])) continue;
    for (const auto word : words) {
      const bool digits = word[0] >= '0' && word[0] <= '9';
      if (!digits && !word.starts_with("__") && !directives.contains(word) && !predefined.contains(word))
        tested.emplace(word);
    }
  }
  return tested;
}

/// `#ifndef NAME` and `#define NAME` at the very beginning.
std::string guard_of(const std::vector<std::pair<std::string, unsigned>>& lines) {
  if (lines.size() < 2) return {};
  const auto first = identifiers(lines[0].first), second = identifiers(lines[1].first);
  const bool guard =
      first.size() == 2 && second.size() == 2 && first[0] == "ifndef" && second[0] == "define" && first[1] == second[1];
  return guard ? std::string(first[1]) : std::string();
}

}  // namespace

ImportMacros import_macros(std::string_view header, const std::set<std::string, std::less<>>& predefined) {
  ImportMacros macros;
  if (header.find("dllimport") == std::string_view::npos) return macros;
  const auto lines = directive_lines(header);
  const Walk bare(lines, predefined);
  macros.line = bare.line;
  const std::string guard = guard_of(lines);
  for (const auto& name : tested_names(lines, predefined)) {
    if (name == guard) continue;
    Names defined = predefined;
    defined.insert(name);
    const Walk walk(lines, std::move(defined));
    if (macros.line == 0) macros.line = walk.line;
    if (bare.outcome != Declares::imports && walk.outcome == Declares::imports) macros.for_shared.push_back(name);
    if (bare.outcome == Declares::imports && walk.outcome == Declares::plain) macros.for_static.push_back(name);
  }
  macros.always = bare.outcome == Declares::imports && macros.for_static.empty();
  return macros;
}

}  // namespace fibula
