#include "project/makefile_definitions.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "project/configured_values.hpp"
#include "project/makefile_lines.hpp"
#include "project/side_programs.hpp"
#include "project/source_kind.hpp"
#include "take/file_roles.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>
#include <set>

namespace fibula {
namespace {

/// The end of `$(…)` or `${…}` that begins at `at`; npos where it has none.
size_t end_of_reference(std::string_view text, size_t at) {
  int depth = 0;
  for (; at < text.size(); ++at) {
    if (text[at] == '(' || text[at] == '{') ++depth;
    if ((text[at] == ')' || text[at] == '}') && --depth == 0) return at + 1;
  }
  return std::string_view::npos;
}

/// One word as the shell would read it, references to variables and all.
std::string_view word_at(std::string_view text, size_t from) {
  char quote = 0;
  for (size_t at = from; at < text.size(); ++at) {
    const char c = text[at];
    if (c == '\\' && quote != '\'') {
      ++at;
    } else if (c == '$' && at + 1 < text.size() && (text[at + 1] == '(' || text[at + 1] == '{')) {
      const size_t end = end_of_reference(text, at + 1);
      if (end == std::string_view::npos) return text.substr(from);
      at = end - 1;
    } else if (quote != 0) {
      if (c == quote) quote = 0;
    } else if (c == '"' || c == '\'') {
      quote = c;
    } else if (c == ' ' || c == '\t') {
      return text.substr(from, at - from);
    }
  }
  return text.substr(from);
}

/// What the shell makes of one word (POSIX.1-2017, Shell Command Language, 2.2); none where it would expand something.
std::optional<std::string> unquoted(std::string_view word) {
  std::string plain;
  char quote = 0;
  for (size_t at = 0; at < word.size(); ++at) {
    const char c = word[at];
    if (c == '\\' && quote != '\'' && at + 1 < word.size()) {
      plain += word[++at];
    } else if (quote != 0 ? c == quote : c == '"' || c == '\'') {
      quote = quote != 0 ? '\0' : c;
    } else if (c == '$' || c == '`') {
      return std::nullopt;
    } else {
      plain += c;
    }
  }
  return quote == 0 ? std::optional(plain) : std::nullopt;
}

class Makefile {
 public:
  /// `configured`: what a configure step fills in.
  Makefile(fs::path folder, const std::map<std::string, std::string>& configured)
      : folder_(std::move(folder)), configured_(configured) {}

  std::vector<HandedDefinition> read(const std::string& text) {
    const auto lines = logical_lines(text);
    note_variables(lines, 0);
    note_rules(lines);
    const auto made = made_by_default();
    int depth = 0;
    bool usual = true;  // the rule that a recipe belongs to is one of every build
    for (const auto& line : lines) {
      depth += nesting(line);
      const auto targets = targets_of(line);
      if (!targets.empty()) usual = is_usual(targets, made);
      // `quick: CFLAGS += -DQUICK` is about that target alone.
      const bool of_rule = line.recipe || !targets.empty();
      if ((of_rule && !usual) || (line.recipe && !compiles(line.text))) continue;
      find_definitions(line, depth > 0 || line.text.starts_with('@'));
    }
    return std::move(found_);
  }

  /// The line of the rule that makes a file of that name; 0 where there is none.
  unsigned line_making(const std::string& text, const std::string& name) {
    const auto lines = logical_lines(text);
    note_variables(lines, 0);
    for (const auto& line : lines) {
      const auto targets = targets_of(line);
      if (std::find(targets.begin(), targets.end(), name) != targets.end()) return line.number;
    }
    return 0;
  }

 private:
  /// Other tools are told of macros too.
  static bool compiles(std::string_view recipe) {
    return recipe.find("(CC") != std::string_view::npos || recipe.find("(CXX") != std::string_view::npos ||
           recipe.find("{CC") != std::string_view::npos || recipe.find("{CXX") != std::string_view::npos ||
           recipe.find(" -c ") != std::string_view::npos;
  }

  // Rules.

  /// `a b: c` -> a, b; empty for other lines.
  std::vector<std::string> targets_of(const LogicalLine& line) const {
    const size_t colon = line.text.find(':');
    const size_t equals = line.text.find('=');
    if (line.recipe || colon == std::string::npos || (equals != std::string::npos && equals < colon) ||
        line.text.substr(colon).starts_with(":="))
      return {};
    return expanded_words(std::string_view(line.text).substr(0, colon));
  }

  std::vector<std::string> expanded_words(std::string_view text) const {
    std::vector<std::string> words;
    for (const auto word : text::words(text)) {
      const std::string whole = expanded(word).value_or(std::string(word));
      for (const auto one : text::words(whole)) words.emplace_back(one);
    }
    return words;
  }

  void note_rules(const std::vector<LogicalLine>& lines) {
    for (const auto& line : lines) {
      const auto behind = std::string_view(line.text).substr(std::min(line.text.find(':') + 1, line.text.size()));
      if (behind.find('=') != std::string_view::npos) continue;  // a variable of these targets
      for (const auto& target : targets_of(line)) {
        if (first_target_.empty() && !target.starts_with('.')) first_target_ = target;
        for (auto& needed : expanded_words(behind.substr(0, behind.find(';')))) needs_[target].push_back(needed);
      }
    }
  }

  /// The first target and all that it needs.
  std::set<std::string> made_by_default() const {
    std::set<std::string> made{first_target_};
    std::vector<std::string> open{first_target_};
    while (!open.empty()) {
      const auto found = needs_.find(open.back());
      open.pop_back();
      for (const auto& needed : found == needs_.end() ? std::vector<std::string>() : found->second) {
        if (made.insert(needed).second) open.push_back(needed);
      }
    }
    return made;
  }

  /// Rules for kinds of files (`.c.o`, `%.o`) serve all of them.
  static bool is_usual(const std::vector<std::string>& targets, const std::set<std::string>& made) {
    return std::any_of(targets.begin(), targets.end(), [&](const std::string& target) {
      return made.contains(target) || target.starts_with('.') || target.find('%') != std::string::npos;
    });
  }

  /// +1 where a conditional begins, -1 where it ends.
  static int nesting(const LogicalLine& line) {
    const auto words = text::trim(line.text);
    if (line.recipe) return 0;
    // `if NAME` is Automake's.
    for (const std::string_view begin : {"ifeq", "ifneq", "ifdef", "ifndef", "if "}) {
      if (words.starts_with(begin)) return 1;
    }
    return words.starts_with("endif") ? -1 : 0;
  }

  void note_variables(const std::vector<LogicalLine>& lines, int including) {
    constexpr int deepest = 4;
    int depth = 0;
    for (const auto& line : lines) {
      depth += nesting(line);
      if (line.recipe) continue;
      const auto words = text::trim(line.text);
      if (words.starts_with("include ") && including < deepest) {
        const std::string name(text::trim(words.substr(8)));
        const auto text =
            name.find_first_of("$ ") == std::string::npos ? read_text(folder_ / name) : Result<std::string>(fail({}));
        if (text) note_variables(logical_lines(*text), including + 1);
        continue;
      }
      note_variable(words, depth > 0);
    }
  }

  /// `NAME = text`, `:=`, `::=`, `?=`, `+=`.
  void note_variable(std::string_view line, bool conditional) {
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
    variable.open =
        variable.open || conditional || sign == "!" || (variable.assigned && sign != "+" && variable.value != value);
    variable.value = sign == "+" && variable.assigned ? variable.value + " " + value : value;
    variable.assigned = true;
  }

  /// The second sign of `@datadir@`, which a configure step replaces; npos where none begins.
  static size_t end_of_mark(std::string_view text, size_t at) {
    const size_t end = text[at] == '@' ? text.find('@', at + 1) : std::string_view::npos;
    if (end == std::string_view::npos || end == at + 1) return std::string_view::npos;
    const auto name = text.substr(at + 1, end - at - 1);
    return std::all_of(name.begin(), name.end(), text::is_identifier_character) ? end : std::string_view::npos;
  }

  /// What the makefile says, else what a configure step would.
  std::optional<std::string> value_of(const std::string& name, int depth) const {
    const auto variable = variables_.find(name);
    const auto configured = configured_.find(name);
    const bool own = variable != variables_.end() && variable->second.value != "@" + name + "@";
    if (own) return variable->second.open ? std::nullopt : expanded(variable->second.value, depth);
    return configured == configured_.end() ? std::nullopt : expanded(configured->second, depth);
  }

  std::optional<std::string> expanded(std::string_view text, int depth = 0) const {
    constexpr int deepest = 16;
    if (depth > deepest) return std::nullopt;
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
      const auto value = value_of(std::string(text.substr(at + 2, end - at - 3)), depth + 1);
      if (!value) return std::nullopt;
      whole += *value;
      at = end;
    }
    return whole;
  }

  void find_definitions(const LogicalLine& line, bool conditional) {
    for (size_t at = line.text.find("-D"); at != std::string::npos; at = line.text.find("-D", at + 2)) {
      const bool begins = at == 0 || std::string_view(" \t=\"'").find(line.text[at - 1]) != std::string_view::npos;
      const auto word = word_at(line.text, at);
      const size_t end = std::min(word.size(), word.find('='));
      const std::string name(word.substr(2, end - 2));
      if (!begins || name.empty() || name.starts_with("__") ||
          !std::all_of(name.begin(), name.end(), text::is_identifier_character))
        continue;
      HandedDefinition handed{.name = name, .file = {}, .line = line.number, .written = std::string(word)};
      const auto whole = conditional ? std::nullopt : expanded(word.substr(2));
      if (whole) handed.definition = unquoted(*whole);
      found_.push_back(std::move(handed));
    }
  }

  struct Variable {
    std::string value;
    bool assigned = false;
    bool open = false;  ///< a condition decides
  };

  fs::path folder_;
  std::map<std::string, Variable> variables_;
  const std::map<std::string, std::string>& configured_;
  std::map<std::string, std::vector<std::string>> needs_;  ///< by target
  std::string first_target_;
  std::vector<HandedDefinition> found_;
};

}  // namespace

std::optional<MakefileRule> rule_making(const fs::path& folder, const std::string& name) {
  const std::map<std::string, std::string> nothing;
  for (const auto& file : files_directly_in(folder)) {
    if (!is_makefile_name(file.string())) continue;
    const auto text = read_text(folder / file);
    const unsigned line = text ? Makefile(folder, nothing).line_making(*text, name) : 0;
    if (line != 0) return MakefileRule{file.string(), line};
  }
  return std::nullopt;
}

std::vector<HandedDefinition> handed_definitions(const fs::path& root) {
  std::vector<fs::path> files;
  for (const fs::path folder : {".", "src", "source"}) {
    for (const auto& name : files_directly_in(root / folder)) files.push_back((folder / name).lexically_normal());
  }
  return handed_definitions(root, files);
}

std::vector<HandedDefinition> handed_definitions(const fs::path& root, const std::vector<fs::path>& files) {
  std::vector<HandedDefinition> all;
  const auto configured = configured_values(root);
  const SidePrograms side(root);
  // A folder for one system's makefile has no sources.
  std::set<fs::path> folders{"", "src", "source"};
  for (const auto& file : files) {
    if (is_compiled(source_kind(file))) folders.insert(file.parent_path());
  }
  for (const auto& file : files) {
    if (!is_makefile_name(file.string()) || !folders.contains(file.parent_path()) || side.has(file.generic_string()))
      continue;
    const auto text = read_text(root / file);
    if (!text) continue;
    for (auto& one : Makefile((root / file).parent_path(), configured).read(*text)) {
      one.file = file.generic_string();
      all.push_back(std::move(one));
    }
  }
  // What is known whole says more than the same where it is yet to be filled in.
  std::stable_sort(all.begin(), all.end(), [](const HandedDefinition& a, const HandedDefinition& b) {
    return a.definition.has_value() && !b.definition.has_value();
  });
  return all;
}

}  // namespace fibula
