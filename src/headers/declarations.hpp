#pragma once

#include <functional>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace fibula {

/// Where the lines behind a preprocessor's line marker are from: `# 12 "include/tide.h" 1` -> {include/tide.h, 12};
/// nothing for other lines.
std::optional<std::pair<std::string, unsigned>> line_marker(std::string_view line);

/// Functions that C or C++ text declares and nowhere defines, by their last name, in order and each once: what a header
/// leaves to a binary. Reads the text as it stands, so a declaration made by a macro is not seen. Templates are left
/// out.
std::vector<std::string> functions_left_to_a_binary(std::string_view text);

/// Whether a C or C++ text defines a function of that name, in whichever branch of its conditionals.
bool defines_function(std::string_view text, const std::string& name);
/// The same of a function or an object that other files see: one that is not static.
bool shows_name(std::string_view text, const std::string& name);

/// The names of a source, as its text has them in whichever branch of its conditionals.
struct SourceNames {
  std::set<std::string> defines;   ///< functions and data that other files see
  std::set<std::string> mentions;  ///< every identifier, those of its comments left out
  std::set<std::string> whole;     ///< what it defines, of C++: "harbour::Gate::open(int)", without blanks
  bool has_main = false;
};
SourceNames names_in_source(std::string_view text);

/// A declaration of a function at namespace scope or in a type, with its overloads.
struct Declaration {
  std::string name;  ///< with its namespaces: "harbour::label"
  std::string text;  ///< as it stands there, with single blanks and without the contents of literals
  bool c_name = false, member = false;
  std::string file;
  unsigned line = 0;
};
/// Of a preprocessor's output, as below.
std::vector<Declaration> declarations_in(std::string_view preprocessed,
                                         const std::function<bool(const std::string&)>& counts);

/// A function that headers leave to a binary.
struct DeclaredFunction {
  std::string name;     ///< with its namespaces: "harbour::label"
  bool c_name = false;  ///< inside extern "C"
  bool stdcall = false;
  std::string file;
  unsigned line = 0;
};

/// Functions that a preprocessor's output declares at namespace scope in files for which `counts` says yes, each once,
/// with where they stand by its line markers (GCC's manual of the preprocessor, "Preprocessor Output"). Functions that
/// are defined there too, templates, operators and members of classes are left out.
std::vector<DeclaredFunction> declared_functions(std::string_view preprocessed,
                                                 const std::function<bool(const std::string&)>& counts);

}  // namespace fibula
