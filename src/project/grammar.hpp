/// Texts of which other tools make C sources: grammars of yacc, scanners of lex (POSIX.1-2017, Utilities).
#pragma once

#include "project/own_making.hpp"

#include <string_view>

namespace fibula {

/// By its ending alone.
bool is_grammar_name(const std::filesystem::path& file);

/// Whether a scanner is made of it.
bool is_scanner(const std::filesystem::path& file, std::string_view text);

/// Whether the C source that is made of it defines a name.
bool defines_by_grammar(const std::filesystem::path& file, std::string_view text, const std::string& name);

/// The C source that is to be made of a grammar.
struct GrammarSource {
  std::string name;     ///< in the grammar's folder
  std::string command;  ///< that makes it; empty where a rule does
  std::optional<OwnMaking> rule = {};
};
GrammarSource source_of_grammar(const std::filesystem::path& file);

}  // namespace fibula
