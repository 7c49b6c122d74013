/// The macros of a source tree: which of them something defines, and which names they stand for or make.
#pragma once

#include "headers/condition.hpp"
#include "headers/expansions.hpp"
#include "take/source.hpp"

#include <filesystem>
#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

class TreeMacros {
 public:
  /// Reads the source's headers, code and templates. `handed`: what its own build defines.
  TreeMacros(const Source& source, DefinedNames handed);

  /// Nothing in the tree defines it, and it is no name of compilers and systems. What a build's own description defines
  /// is not known: who wants it says so in the card.
  bool is_never_defined(std::string_view name) const;
  /// Whether something in the tree defines it, as far as the texts say.
  bool is_defined_here(const std::string& name) const { return macros_.contains(name) || asked_.contains(name); }
  /// Whether it may be defined or not: what a configure step finds out, or what only some of the files define.
  bool is_open(std::string_view name) const;
  bool leaves_some_undefined() const { return !undefined_.empty(); }
  bool is_left_undefined(std::string_view name) const { return undefined_.contains(name); }
  /// Also what the macros and inline functions among these names bring in.
  std::set<std::string> with_expansions(std::set<std::string> names) const;
  /// What names of the tree's headers stand for.
  const Expansions& expansions() const { return expansions_; }
  /// Whether a macro of the tree may put the name together, of a part that stands in it and another.
  bool may_be_pasted(const std::string& name) const;
  /// Whether it is a macro with arguments that makes names, itself or through others.
  bool makes_names(const std::string& name) const { return pasting_.contains(name); }
  /// Whether many of the tree's macros begin so: `TIDE` of `TIDE_MAX`.
  bool is_usual_prefix(const std::string& word) const;
  /// That its own build hands to the compiler.
  const DefinedNames& handed() const { return handed_; }

  void hand(const DefinedNames& macros);
  /// What is made of the tree's templates leaves these undefined.
  void leave_undefined(const DefinedNames& macros);

 private:
  void note_all_expansions();

  std::filesystem::path root_;
  std::vector<std::string> header_files_;  ///< the library's headers
  Expansions expansions_;
  std::set<std::string> pasted_;   ///< parts of names in macros with `##`
  std::set<std::string> pasting_;  ///< macros with arguments that make names
  DefinedNames macros_;            ///< that something in the tree defines
  DefinedNames asked_;             ///< that a configure step would define or not, by its templates
  DefinedNames undefined_;         ///< of which it is known that nothing will define them
  DefinedNames handed_;
};

}  // namespace fibula
