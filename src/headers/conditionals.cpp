#include "headers/conditionals.hpp"

#include "base/text.hpp"
#include "headers/condition.hpp"

#include <map>

namespace fibula {
namespace {

using Names = DefinedNames;

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

enum class Declares { plain, imports, exports };

/// Macros of which others are made: none of them says by itself what a declaration gets.
Names helpers_among(const std::vector<std::pair<std::string, unsigned>>& lines) {
  Names helpers;
  for (const auto& [text, number] : lines) {
    const auto words = text::identifiers(text);
    if (words.empty() || words[0] != "define") continue;
    for (size_t i = 2; i < words.size(); ++i) {
      if (words[i] != words[1]) helpers.emplace(words[i]);
    }
  }
  return helpers;
}

/// Where the header's API macro leads when these names are defined: by itself, or by macros that it is made of.
class Walk {
 public:
  Walk(const std::vector<std::pair<std::string, unsigned>>& lines, const Names& helpers, Names defined)
      : helpers_(helpers), defined_(std::move(defined)) {
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
      branch.active = branch.outer && !branch.taken && (word == "else" || condition_holds(rest, defined_));
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
    const bool value = word == "if" ? condition_holds(rest, defined_) : defined_.contains(name) == (word == "ifdef");
    branches_.push_back({outer && value, outer && value, outer});
  }

  void define(std::string_view rest, unsigned number) {
    size_t end = 0;
    while (end < rest.size() && text::is_identifier_character(rest[end])) ++end;
    const std::string name(rest.substr(0, end));
    defined_.emplace(name);
    const Declares kind = kind_of(rest.substr(end));
    kinds_.insert_or_assign(name, kind);
    if (kind == Declares::plain || helpers_.contains(name)) return;
    outcome = kind;
    if (kind == Declares::imports) line = number;
  }

  Declares kind_of(std::string_view value) const {
    if (value.find("dllimport") != std::string_view::npos) return Declares::imports;
    if (value.find("dllexport") != std::string_view::npos) return Declares::exports;
    for (const auto word : text::identifiers(value)) {
      const auto known = kinds_.find(word);
      if (known != kinds_.end() && known->second != Declares::plain) return known->second;
    }
    return Declares::plain;
  }

  const Names& helpers_;
  std::map<std::string, Declares, std::less<>> kinds_;
  Names defined_;
  std::vector<Branch> branches_;
};

/// Names that the conditions test and that a user, not a compiler, would define.
Names tested_names(const std::vector<std::pair<std::string, unsigned>>& lines, const Names& predefined) {
  static const Names directives{"if", "ifdef", "ifndef", "elif", "defined"};
  Names tested;
  for (const auto& [text, number] : lines) {
    const auto words = text::identifiers(text);
    if (words.empty() || words[0] == "defined" || !directives.contains(words[0])) continue;
    for (const auto word : words) {
      if (!word.starts_with("__") && !directives.contains(word) && !predefined.contains(word)) tested.emplace(word);
    }
  }
  return tested;
}

/// `#ifndef NAME` and `#define NAME` at the very beginning.
std::string guard_of(const std::vector<std::pair<std::string, unsigned>>& lines) {
  if (lines.size() < 2) return {};
  const auto first = text::identifiers(lines[0].first), second = text::identifiers(lines[1].first);
  const bool guard =
      first.size() == 2 && second.size() == 2 && first[0] == "ifndef" && second[0] == "define" && first[1] == second[1];
  return guard ? std::string(first[1]) : std::string();
}

}  // namespace

const DefinedNames& macros_of_windows(bool mingw) {
  static const DefinedNames of_mingw{"_WIN32", "WIN32", "__GNUC__", "__MINGW32__"}, of_msvc{"_WIN32", "_MSC_VER"};
  return mingw ? of_mingw : of_msvc;
}

std::string telling_name(const std::vector<std::string>& names) {
  for (const char* word : {"DLL", "SHARED", "STATIC", "IMPORT"}) {
    for (const auto& name : names) {
      if (name.find(word) != std::string::npos) return name;
    }
  }
  return names.empty() ? std::string() : names.front();
}

ImportMacros import_macros(std::string_view header, const DefinedNames& predefined) {
  ImportMacros macros;
  if (header.find("dllimport") == std::string_view::npos) return macros;
  const auto lines = directive_lines(header);
  const Names helpers = helpers_among(lines);
  const Walk bare(lines, helpers, predefined);
  macros.line = bare.line;
  const std::string guard = guard_of(lines);
  for (const auto& name : tested_names(lines, predefined)) {
    if (name == guard) continue;
    Names defined = predefined;
    defined.insert(name);
    const Walk walk(lines, helpers, std::move(defined));
    if (macros.line == 0) macros.line = walk.line;
    if (bare.outcome != Declares::imports && walk.outcome == Declares::imports) macros.for_shared.push_back(name);
    if (bare.outcome == Declares::imports && walk.outcome == Declares::plain) macros.for_static.push_back(name);
  }
  Names of_users = predefined;
  if (!macros.for_shared.empty()) of_users.insert(telling_name(macros.for_shared));
  for (const auto& name : tested_names(lines, of_users)) {
    if (name == guard) continue;
    Names defined = of_users;
    defined.insert(name);
    if (Walk(lines, helpers, std::move(defined)).outcome == Declares::exports) macros.for_export.push_back(name);
  }
  macros.always = bare.outcome == Declares::imports && macros.for_static.empty();
  return macros;
}

}  // namespace fibula
