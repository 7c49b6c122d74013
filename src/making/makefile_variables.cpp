#include "making/makefile_variables.hpp"

#include "base/text.hpp"
#include "os/files.hpp"

#include <algorithm>

namespace fibula {
namespace {

constexpr int deepest_reference = 16;

/// The second sign of `@datadir@`, which a configure step replaces; npos where none begins.
size_t end_of_mark(std::string_view text, size_t at) {
  const size_t end = text[at] == '@' ? text.find('@', at + 1) : std::string_view::npos;
  if (end == std::string_view::npos || end == at + 1) return std::string_view::npos;
  const auto name = text.substr(at + 1, end - at - 1);
  return std::all_of(name.begin(), name.end(), text::is_identifier_character) ? end : std::string_view::npos;
}

/// A variable that nobody gives a value is empty (GNU make manual, "Basics of Variable References"), but for those by
/// which machines, tools and surroundings make themselves known.
bool may_come_from_outside(const std::string& name) {
  static constexpr std::string_view telling[] = {
      "OS",   "SYS",   "PLATFORM", "TARGET", "ARCH",  "HOST", "CC",   "CXX",  "COMPILER", "TOOL",   "MACH",
      "CPU",  "UNAME", "WIN",      "MAC",    "CROSS", "MAKE", "HOME", "PATH", "SHELL",    "PREFIX", "DIR",
      "LIBS", "LINUX", "GNU",      "FLAGS",  "CLANG", "MSYS", "BSD",  "SUN",  "VERSION"};
  const std::string upper = text::upper(name);
  return std::any_of(std::begin(telling), std::end(telling),
                     [&](std::string_view part) { return upper.find(part) != std::string::npos; });
}

bool begins(std::string_view line, std::string_view word) {
  return line.starts_with(word) && (line.size() == word.size() || line[word.size()] == ' ' ||
                                    line[word.size()] == '\t' || line[word.size()] == '(');
}

bool is_conditional(std::string_view line) {
  // `if NAME` is Automake's.
  return begins(line, "ifeq") || begins(line, "ifneq") || begins(line, "ifdef") || begins(line, "ifndef") ||
         begins(line, "if");
}

Branch opposite(Branch branch) {
  return branch == Branch::taken ? Branch::not_taken : branch == Branch::not_taken ? Branch::taken : Branch::open;
}

std::string joined(const std::vector<std::string_view>& words) {
  std::string text;
  for (const auto word : words) text.append(text.empty() ? "" : " ").append(word);
  return text;
}

/// The arguments of a function, apart from commas inside of references.
std::vector<std::string_view> arguments_of_function(std::string_view text) {
  std::vector<std::string_view> arguments;
  int depth = 0;
  size_t from = 0;
  for (size_t at = 0; at < text.size(); ++at) {
    if (text[at] == '(' || text[at] == '{') ++depth;
    if (text[at] == ')' || text[at] == '}') --depth;
    if (text[at] != ',' || depth != 0) continue;
    arguments.push_back(text.substr(from, at - from));
    from = at + 1;
  }
  arguments.push_back(text.substr(from));
  return arguments;
}

/// The two sides of `(a,b)`, `"a" "b"` or `'a' 'b'`.
std::optional<std::pair<std::string_view, std::string_view>> sides_of(std::string_view condition) {
  const auto whole = text::trim(condition);
  if (whole.starts_with('(')) {
    const size_t end = end_of_reference(whole, 0);
    if (end == std::string_view::npos) return std::nullopt;
    const auto sides = arguments_of_function(whole.substr(1, end - 2));
    return sides.size() == 2 ? std::optional(std::pair(text::trim(sides[0]), text::trim(sides[1]))) : std::nullopt;
  }
  const char quote = whole.empty() ? '\0' : whole[0];
  if (quote != '"' && quote != '\'') return std::nullopt;
  const size_t end = whole.find(quote, 1);
  const size_t begin = end == std::string_view::npos ? end : whole.find_first_of("\"'", end + 1);
  const size_t last = begin == std::string_view::npos ? begin : whole.find(whole[begin], begin + 1);
  if (last == std::string_view::npos) return std::nullopt;
  return std::pair(whole.substr(1, end - 1), whole.substr(begin + 1, last - begin - 1));
}

}  // namespace

size_t end_of_reference(std::string_view text, size_t at) {
  int depth = 0;
  for (; at < text.size(); ++at) {
    if (text[at] == '(' || text[at] == '{') ++depth;
    if ((text[at] == ')' || text[at] == '}') && --depth == 0) return at + 1;
  }
  return std::string_view::npos;
}

void MakefileVariables::note(const std::vector<LogicalLine>& lines, int including) {
  constexpr int deepest_include = 4;
  BranchesOfMakefile branches(*this);
  for (const auto& line : lines) {
    if (line.recipe) continue;
    const Branch branch = branches.at(line);
    const auto words = text::trim(line.text);
    if (begins(words, "include") && including < deepest_include) {
      const std::string name(text::trim(words.substr(7)));
      const auto text =
          name.find_first_of("$ ") == std::string::npos ? read_text(folder_ / name) : Result<std::string>(fail({}));
      if (text) note(logical_lines(*text), including + 1);
    } else if (branch != Branch::not_taken) {
      note_variable(words, branch);
    }
  }
}

/// `NAME = text`, `:=`, `::=`, `?=`, `+=`.
void MakefileVariables::note_variable(std::string_view line, Branch branch) {
  const size_t equals = line.find('=');
  if (equals == std::string_view::npos) return;
  const auto left = text::trim(line.substr(0, equals));
  const size_t end = left.find_last_not_of(":?+!") + 1;
  const auto sign = left.substr(end);
  const auto name = text::trim(left.substr(0, end));
  if (name.empty() || name.find_first_of(" \t$") != std::string_view::npos) return;
  Variable& variable = variables_[std::string(name)];
  const std::string value(text::trim(line.substr(equals + 1)));
  if (sign == "?" && variable.assigned) return;
  // `!=` asks the shell; what a condition decides, or the order of two values, is not known here.
  variable.open = variable.open || branch == Branch::open || sign == "!" ||
                  (variable.assigned && sign != "+" && variable.value != value);
  variable.value = sign == "+" && variable.assigned ? variable.value + " " + value : value;
  variable.assigned = true;
}

/// What the makefile says, else what a configure step would.
std::optional<std::string> MakefileVariables::value_of(const std::string& name, int depth) const {
  const auto variable = variables_.find(name);
  const auto configured = configured_.find(name);
  const bool own = variable != variables_.end() && variable->second.value != "@" + name + "@";
  if (own) return variable->second.open ? std::nullopt : expanded(variable->second.value, depth);
  return configured == configured_.end() ? std::nullopt : expanded(configured->second, depth);
}

/// `CC`, `findstring a,$(B)`: what stands between the brackets (GNU make manual, "Functions for String Substitution").
std::optional<std::string> MakefileVariables::expanded_reference(std::string_view reference, int depth) const {
  const size_t space = reference.find_first_of(" \t");
  if (space == std::string_view::npos) return value_of(std::string(reference), depth + 1);
  const auto function = reference.substr(0, space);
  std::vector<std::string> arguments;
  for (const auto argument : arguments_of_function(text::trim(reference.substr(space)))) {
    auto value = expanded(argument, depth + 1);
    if (!value) return std::nullopt;
    arguments.push_back(std::move(*value));
  }
  if (function == "strip" && arguments.size() == 1) return joined(text::words(arguments[0]));
  if (arguments.size() != 2 || (function != "findstring" && function != "filter" && function != "filter-out"))
    return std::nullopt;
  if (function == "findstring")
    return arguments[1].find(arguments[0]) == std::string::npos ? std::string() : arguments[0];
  if (arguments[0].find('%') != std::string::npos) return std::nullopt;
  const auto named = text::words(arguments[0]);
  std::vector<std::string_view> kept;
  for (const auto word : text::words(arguments[1])) {
    if ((std::find(named.begin(), named.end(), word) != named.end()) == (function == "filter")) kept.push_back(word);
  }
  return joined(kept);
}

std::optional<std::string> MakefileVariables::expanded(std::string_view text, int depth) const {
  if (depth > deepest_reference) return std::nullopt;
  std::string whole;
  for (size_t at = 0; at < text.size();) {
    if (const size_t end = end_of_mark(text, at); end != std::string_view::npos) {
      const auto value = value_of(std::string(text.substr(at + 1, end - at - 1)), depth + 1);
      if (!value) return std::nullopt;
      whole += *value;
      at = end + 1;
      continue;
    }
    if (text[at] != '$') {
      whole += text[at++];
      continue;
    }
    const bool bracket = at + 1 < text.size() && (text[at + 1] == '(' || text[at + 1] == '{');
    const size_t end = bracket ? end_of_reference(text, at + 1) : std::string_view::npos;
    if (end == std::string_view::npos) return std::nullopt;
    const auto value = expanded_reference(text.substr(at + 2, end - at - 3), depth);
    if (!value) return std::nullopt;
    whole += *value;
    at = end;
  }
  return whole;
}

/// A side of a condition. One that is a variable without a value is empty.
std::optional<std::string> MakefileVariables::in_condition(std::string_view text) const {
  if (text.starts_with("$(") && end_of_reference(text, 1) == text.size()) {
    const std::string name(text.substr(2, text.size() - 3));
    const bool plain = std::all_of(name.begin(), name.end(), text::is_identifier_character);
    if (plain && !variables_.contains(name) && !configured_.contains(name))
      return may_come_from_outside(name) ? std::nullopt : std::optional(std::string());
  }
  return expanded(text);
}

Branch MakefileVariables::holds(std::string_view condition) const {
  const size_t space = std::min(condition.find_first_of(" \t("), condition.size());
  const auto word = condition.substr(0, space), rest = text::trim(condition.substr(space));
  std::optional<bool> equal;
  if (word == "ifdef" || word == "ifndef") {
    // Its value is asked for, not what it expands to.
    const auto value = in_condition("$(" + std::string(rest) + ")");
    if (value) equal = value->empty();
  } else if (const auto sides = sides_of(rest)) {
    const auto left = in_condition(sides->first), right = in_condition(sides->second);
    if (left && right) equal = *left == *right;
  }
  if (!equal || word == "if") return Branch::open;
  return *equal == (word == "ifeq" || word == "ifndef") ? Branch::taken : Branch::not_taken;
}

Branch BranchesOfMakefile::now() const {
  Branch all = Branch::taken;
  for (const auto& level : levels_) all = std::max(all, level.now);
  return all;
}

Branch BranchesOfMakefile::at(const LogicalLine& line) {
  const auto words = text::trim(line.text);
  if (line.recipe) return now();
  if (is_conditional(words)) {
    const Branch branch = variables_.holds(words);
    levels_.push_back({branch, opposite(branch)});
  } else if (begins(words, "else") && !levels_.empty()) {
    Level& level = levels_.back();
    const auto further = text::trim(words.substr(4));
    // `else ifeq (…)` is another branch of the same conditional.
    const Branch branch = is_conditional(further) ? variables_.holds(further) : Branch::taken;
    level.now = std::max(level.rest, branch);
    level.rest = std::max(level.rest, is_conditional(further) ? opposite(branch) : Branch::not_taken);
  } else if (begins(words, "endif") && !levels_.empty()) {
    levels_.pop_back();
  }
  return now();
}

}  // namespace fibula
