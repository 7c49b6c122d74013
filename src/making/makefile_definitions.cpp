#include "making/makefile_definitions.hpp"

#include "base/text.hpp"
#include "making/makefile_lines.hpp"
#include "making/makefile_variables.hpp"
#include "os/files.hpp"

#include <algorithm>
#include <map>
#include <set>

namespace fibula {
namespace {

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
  Makefile(const fs::path& folder, const std::map<std::string, std::string>& configured)
      : variables_(folder, configured) {}

  std::vector<HandedDefinition> read(const std::string& text) {
    const auto lines = logical_lines(text);
    variables_.note(lines);
    note_rules(lines);
    const auto made = made_by_default();
    BranchesOfMakefile branches(variables_);
    bool usual = true;  // the rule that a recipe belongs to is one of every build
    for (const auto& line : lines) {
      const Branch branch = branches.at(line);
      const auto targets = targets_of(line);
      if (!targets.empty()) usual = is_usual(targets, made);
      // `quick: CFLAGS += -DQUICK` is about that target alone.
      const bool of_rule = line.recipe || !targets.empty();
      if ((of_rule && !usual) || (line.recipe && !compiles(line.text))) continue;
      find_definitions(line, branch != Branch::taken || line.text.starts_with('@'));
    }
    return std::move(found_);
  }

  /// The line of the rule that makes a file of that name; 0 where there is none.
  unsigned line_making(const std::string& text, const std::string& name) {
    const auto lines = logical_lines(text);
    variables_.note(lines);
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
      const std::string whole = variables_.expanded(word).value_or(std::string(word));
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
      const auto whole = conditional ? std::nullopt : variables_.expanded(word.substr(2));
      if (whole) handed.definition = unquoted(*whole);
      found_.push_back(std::move(handed));
    }
  }

  MakefileVariables variables_;
  std::map<std::string, std::vector<std::string>> needs_;  ///< by target
  std::string first_target_;
  std::vector<HandedDefinition> found_;
};

}  // namespace

std::vector<HandedDefinition> definitions_in_makefile(const fs::path& root, const fs::path& file,
                                                      const std::map<std::string, std::string>& configured) {
  const auto text = read_text(root / file);
  if (!text) return {};
  auto found = Makefile((root / file).parent_path(), configured).read(*text);
  for (auto& one : found) one.file = file.generic_string();
  return found;
}

DefinedNames handed_names(const std::vector<HandedDefinition>& handed) {
  DefinedNames names;
  for (const auto& one : handed) {
    if (one.definition) names.insert(one.name);
  }
  return names;
}

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

}  // namespace fibula
