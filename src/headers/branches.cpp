#include "headers/branches.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <map>
#include <optional>
#include <set>

namespace fibula {
namespace {

constexpr size_t no_branch = static_cast<size_t>(-1);

enum class Directive { none, opens, next, otherwise, closes, defines, undefines };

/// A line, or several that are joined by backslashes.
struct Line {
  std::string_view text;
  Directive directive = Directive::none;
  std::string_view word;  ///< of a directive: `ifdef`
  std::string rest;       ///< what stands behind it, in one line and without comments
};

std::string_view leading_word(std::string_view text) {
  size_t end = 0;
  while (end < text.size() && text::is_identifier_character(text[end])) ++end;
  return text.substr(0, end);
}

Directive directive_of(std::string_view word) {
  if (word == "if" || word == "ifdef" || word == "ifndef") return Directive::opens;
  if (word == "elif" || word == "elifdef" || word == "elifndef") return Directive::next;
  if (word == "else") return Directive::otherwise;
  if (word == "endif") return Directive::closes;
  if (word == "define") return Directive::defines;
  return word == "undef" ? Directive::undefines : Directive::none;
}

/// Follows comments over lines, so that a `#` within one is none.
class CommentLines {
 public:
  bool inside() const { return inside_; }
  void follow(std::string_view line) {
    char quote = 0;
    for (size_t at = 0; at < line.size(); ++at) {
      const auto two = line.substr(at, 2);
      if (inside_) {
        if (two == "*/") inside_ = false, ++at;
      } else if (quote != 0) {
        if (line[at] == '\\')
          ++at;
        else if (line[at] == quote)
          quote = 0;
      } else if (two == "//") {
        return;
      } else if (two == "/*") {
        inside_ = true, ++at;
      } else if (line[at] == '"' || (line[at] == '\'' && (at == 0 || !text::is_identifier_character(line[at - 1])))) {
        quote = line[at];
      }
    }
  }

 private:
  bool inside_ = false;
};

/// Lines that are joined by backslashes, each as far as a comment.
std::string in_one_line(std::string_view text) {
  std::string joined;
  for (auto line : text::lines(text)) {
    line = text::trim(line);
    if (line.ends_with('\\')) line.remove_suffix(1);
    for (const std::string_view comment : {"//", "/*"}) line = line.substr(0, line.find(comment));
    joined += (joined.empty() ? "" : " ") + std::string(text::trim(line));
  }
  return joined;
}

std::vector<Line> lines_of(std::string_view text) {
  std::vector<Line> lines;
  CommentLines comments;
  for (size_t at = 0; at < text.size();) {
    size_t end = std::min(text.find('\n', at), text.size());
    while (end < text.size() && end > at && text::trim(text.substr(at, end - at)).ends_with('\\'))
      end = std::min(text.find('\n', end + 1), text.size());
    Line line{text.substr(at, end - at)};
    const auto word = text::trim(line.text);
    if (!comments.inside() && word.starts_with('#')) {
      const auto behind = text::trim(word.substr(1));
      line.word = leading_word(behind);
      line.directive = directive_of(line.word);
      line.rest = in_one_line(behind.substr(line.word.size()));
    }
    comments.follow(line.text);
    lines.push_back(std::move(line));
    at = end + 1;
  }
  return lines;
}

/// The lines that begin the branches of an `#if`.
using Group = std::vector<size_t>;

std::map<size_t, Group> groups_of(const std::vector<Line>& lines) {
  std::map<size_t, Group> groups;
  std::vector<size_t> open;
  for (size_t at = 0; at < lines.size(); ++at) {
    const Directive directive = lines[at].directive;
    if (directive == Directive::opens) {
      open.push_back(at);
      groups[at].push_back(at);
    } else if ((directive == Directive::next || directive == Directive::otherwise) && !open.empty()) {
      groups[open.back()].push_back(at);
    } else if (directive == Directive::closes && !open.empty()) {
      open.pop_back();
    }
  }
  return groups;
}

void append_line(const Line& line, bool shown, std::string& result) {
  if (shown) {
    result += line.text;
  } else {
    result.append(static_cast<size_t>(std::count(line.text.begin(), line.text.end(), '\n')), '\n');
  }
  result += '\n';
}

/// The text with one branch of each group: that of the line which `choose` gives for an active group, or none.
template <class Choose, class Note>
std::string with_branches(const std::vector<Line>& lines, const std::map<size_t, Group>& groups, const Choose& choose,
                          const Note& note) {
  struct Open {
    size_t chosen;
    bool active, outer;
  };
  std::vector<Open> open;
  std::string result;
  for (size_t at = 0; at < lines.size(); ++at) {
    const Line& line = lines[at];
    const bool active = open.empty() || open.back().active;
    bool shown = false;
    switch (line.directive) {
      case Directive::opens: {
        const size_t chosen = active ? choose(groups.at(at)) : no_branch;
        open.push_back({chosen, chosen == at, active});
        break;
      }
      case Directive::next:
      case Directive::otherwise:
        if (!open.empty()) open.back().active = open.back().outer && open.back().chosen == at;
        break;
      case Directive::closes:
        if (!open.empty()) open.pop_back();
        break;
      default:
        shown = active;
        if (active) note(line);
    }
    append_line(line, shown, result);
  }
  return result;
}

/// Branches that a build may take: nobody's is that of `#if 0`, and behind `#if 1` comes none.
Group possible(const std::vector<Line>& lines, const Group& group) {
  Group found;
  for (const size_t at : group) {
    if (lines[at].directive != Directive::otherwise && lines[at].rest == "0") continue;
    found.push_back(at);
    if (lines[at].rest == "1") break;
  }
  return found;
}

bool holds(const Line& line, const DefinedNames& defined) {
  if (line.directive == Directive::otherwise) return true;
  const bool named = line.word.ends_with("def");
  if (!named) return condition_holds(line.rest, defined);
  return defined.contains(leading_word(line.rest)) == (line.word.find('n') == std::string_view::npos);
}

/// What the condition of a line is in each build: nothing where that depends on the build.
std::optional<bool> settled(const Line& line, const NameQuestion& is_never_defined) {
  if (line.directive == Directive::otherwise) return std::nullopt;
  if (!line.word.ends_with("def")) return settled_condition(line.rest, is_never_defined);
  if (!is_never_defined(leading_word(line.rest))) return std::nullopt;
  return line.word.find('n') != std::string_view::npos;
}

/// `#ifndef NAME` with a definition of it right behind.
bool is_guard(const std::vector<Line>& lines, size_t at) {
  if (lines[at].word != "ifndef") return false;
  const auto next = std::find_if(lines.begin() + static_cast<std::ptrdiff_t>(at) + 1, lines.end(),
                                 [](const Line& line) { return !line.word.empty(); });
  return next != lines.end() && next->directive == Directive::defines &&
         leading_word(next->rest) == leading_word(lines[at].rest);
}

}  // namespace

bool has_loose_conditionals(std::string_view text) {
  // A comment can hide half of a conditional, and a lone quote the end of a comment: both readings must agree.
  int depth = 0, plain_depth = 0;
  bool loose = false, plainly_loose = false;
  const auto count = [](Directive directive, int& open, bool& lost) {
    if (directive == Directive::opens) ++open;
    if (directive == Directive::closes) --open;
    const bool goes_on = directive == Directive::next || directive == Directive::otherwise;
    lost = lost || open < 0 || (goes_on && open == 0);
  };
  for (const auto& line : lines_of(text)) count(line.directive, depth, loose);
  for (const auto line : text::lines(text)) {
    const auto word = text::trim(line);
    if (word.starts_with('#'))
      count(directive_of(leading_word(text::trim(word.substr(1)))), plain_depth, plainly_loose);
  }
  return (loose || depth != 0) && (plainly_loose || plain_depth != 0);
}

std::vector<std::string> branch_texts(std::string_view text) {
  constexpr size_t most = 8;
  const auto lines = lines_of(text);
  const auto groups = groups_of(lines);
  std::set<size_t> taken, left;
  std::vector<std::string> texts;
  do {
    left.clear();
    const auto choose = [&](const Group& group) {
      const Group branches = possible(lines, group);
      if (branches.empty()) return no_branch;
      const auto fresh = std::find_if(branches.begin(), branches.end(), [&](size_t at) { return !taken.contains(at); });
      const size_t chosen = fresh == branches.end() ? branches.front() : *fresh;
      taken.insert(chosen);
      for (const size_t at : branches) {
        if (!taken.contains(at)) left.insert(at);
      }
      return chosen;
    };
    texts.push_back(with_branches(lines, groups, choose, [](const Line&) {}));
  } while (!left.empty() && texts.size() < most);
  return texts;
}

std::string text_where(std::string_view text, DefinedNames defined, const NameQuestion& is_open) {
  const auto lines = lines_of(text);
  const auto asks_openly = [&](size_t at) {
    const auto names = text::identifiers(lines[at].rest);
    return !is_guard(lines, at) && std::any_of(names.begin(), names.end(), [&](std::string_view name) {
      return !defined.contains(name) && is_open(name);
    });
  };
  const auto choose = [&](const Group& group) {
    for (const size_t at : group) {
      if (is_open && lines[at].directive != Directive::otherwise && asks_openly(at)) return no_branch;
      if (holds(lines[at], defined)) return at;
    }
    return no_branch;
  };
  return with_branches(lines, groups_of(lines), choose, [&](const Line& line) {
    const std::string name(leading_word(line.rest));
    if (line.directive == Directive::defines) defined.insert(name);
    if (line.directive == Directive::undefines) defined.erase(name);
  });
}

namespace {

/// The text without branches that no build takes; lines of the preprocessor stay or go.
std::string without_settled(std::string_view text, const NameQuestion& is_never_defined, bool shows_directives) {
  struct Open {
    bool stays = true;     ///< the branch that is open
    bool settled = false;  ///< an earlier one is taken by every build
  };
  const auto lines = lines_of(text);
  std::vector<Open> open;
  std::string result;
  for (const Line& line : lines) {
    const bool begins = line.directive == Directive::opens;
    if (line.directive == Directive::closes && !open.empty()) open.pop_back();
    if (begins) open.emplace_back();
    const bool branch = begins || line.directive == Directive::next || line.directive == Directive::otherwise;
    if (branch && !open.empty()) {
      const auto known = settled(line, is_never_defined);
      open.back().stays = !open.back().settled && known.value_or(true);
      open.back().settled = open.back().settled || known.value_or(false);
    }
    const bool stays = std::all_of(open.begin(), open.end(), [](const Open& one) { return one.stays; });
    const bool is_conditional = branch || line.directive == Directive::closes;
    const bool is_shown =
        is_conditional ? shows_directives : stays && (shows_directives || line.directive == Directive::none);
    append_line(line, is_shown, result);
  }
  return result;
}

}  // namespace

std::string text_without(std::string_view text, const NameQuestion& is_never_defined) {
  return without_settled(text, is_never_defined, false);
}

std::string branches_without(std::string_view text, const NameQuestion& is_never_defined) {
  return without_settled(text, is_never_defined, true);
}

void note_defined_names(std::string_view text, DefinedNames& names) {
  for (const Line& line : lines_of(text)) {
    const auto word = line.word;
    if (word == "define" || word == "undef" || word.starts_with("cmakedefine") || word == "mesondefine")
      names.emplace(leading_word(line.rest));
  }
}

std::vector<std::pair<std::string, std::string>> macro_bodies(std::string_view text) {
  std::vector<std::pair<std::string, std::string>> macros;
  for (const Line& line : lines_of(text)) {
    if (line.directive != Directive::defines) continue;
    const std::string name(leading_word(line.rest));
    macros.emplace_back(name, line.rest.substr(name.size()));
  }
  return macros;
}

void note_tested_names(std::string_view text, DefinedNames& names) {
  for (const Line& line : lines_of(text)) {
    if (line.directive != Directive::opens && line.directive != Directive::next) continue;
    for (const auto name : text::identifiers(line.rest)) {
      if (name != "defined") names.emplace(name);
    }
  }
}

const DefinedNames& names_of_linux() {
  static const DefinedNames names{"__linux__",     "__linux",  "linux",    "__unix__", "__unix",   "unix",
                                  "__gnu_linux__", "__GNUC__", "__STDC__", "__ELF__",  "__GLIBC__"};
  return names;
}

const DefinedNames& names_of_macos() {
  static const DefinedNames names{"__APPLE__", "__MACH__", "__GNUC__", "__clang__", "__STDC__"};
  return names;
}

const DefinedNames& names_of_windows() {
  static const DefinedNames names{"_WIN32",      "WIN32",       "_WIN64",   "WIN64",
                                  "__MINGW32__", "__MINGW64__", "__GNUC__", "__STDC__"};
  return names;
}

}  // namespace fibula
