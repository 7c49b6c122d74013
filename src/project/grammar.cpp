#include "project/grammar.hpp"

#include "base/text.hpp"
#include "headers/declarations.hpp"
#include "making/makefile_definitions.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

bool is_for_yacc(const fs::path& file) {
  const auto ending = file.extension();
  return ending == ".y" || ending == ".yy" || ending == ".ypp";
}

bool is_for_lex(const fs::path& file) {
  const auto ending = file.extension();
  return ending == ".l" || ending == ".ll" || ending == ".lpp";
}

/// What is C in it as it stands: between %{ and %}, and behind the rules.
std::string code_in(std::string_view text) {
  std::string code;
  int sections = 0;
  bool quoted = false;
  for (const auto line : text::lines(text)) {
    if (line.starts_with("%{")) {
      quoted = true;
    } else if (line.starts_with("%}")) {
      quoted = false;
    } else if (line.starts_with("%%")) {
      ++sections;
    } else if (quoted || sections > 1) {
      code += std::string(line) + "\n";
    }
  }
  return code;
}

bool has_rules(std::string_view text) {
  return text.starts_with("%%") || text.find("\n%%") != std::string_view::npos;
}

/// What yacc's tables bring, whatever the grammar is; the rest that begins so is a scanner's.
bool is_of_parser(const std::string& name) {
  static const std::set<std::string> names = {"yyparse", "yylval", "yychar", "yynerrs", "yydebug", "yylloc"};
  return names.contains(name);
}

/// What a user's own code gives both.
bool is_of_user(const std::string& name) {
  return name == "yyerror" || name == "yywrap";
}

}  // namespace

bool is_grammar_name(const fs::path& file) {
  return is_for_yacc(file) || is_for_lex(file);
}

bool is_scanner(const fs::path& file, std::string_view text) {
  return is_for_lex(file) && has_rules(text);
}

bool defines_by_grammar(const fs::path& file, std::string_view text, const std::string& name) {
  if (!has_rules(text)) return false;
  if (name.starts_with("yy") && !is_of_user(name)) return is_for_yacc(file) == is_of_parser(name);
  return shows_name(code_in(text), name);
}

GrammarSource source_of_grammar(const fs::path& file) {
  const std::string stem = file.stem().string(), name = file.filename().string();
  const fs::path folder = file.parent_path();
  const bool yacc = is_for_yacc(file);
  const auto names = yacc ? std::vector<std::string>{stem + ".tab.c", stem + ".c", "y.tab.c"}
                          : std::vector<std::string>{stem + ".yy.c", "lex.yy.c", stem + ".c", "lex." + stem + ".c"};
  for (const auto& made : names) {
    if (const auto rule = rule_making(folder, made))
      return {made, {}, OwnMaking{folder / rule->file, rule->line, made}};
  }
  // Automake's rules for grammars are in no makefile of its own (its manual, "Yacc and Lex support").
  const std::string made = stamp_of(folder / "Makefile.am").is_file() ? stem + ".c" : names.front();
  return {made, fmt::format("{} -o {} {}", yacc ? "bison -d" : "flex", made, name)};
}

}  // namespace fibula
