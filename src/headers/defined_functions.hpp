#pragma once

#include "headers/header_reading.hpp"

#include <set>

namespace fibula {

/// The functions that binaries give their users, by the names that sources have for them.
class DefinedFunctions {
 public:
  /// A binary that cannot be read any more gives none: those who link it tell.
  DefinedFunctions(const std::vector<std::filesystem::path>& binaries, const Target& target);
  /// Whether the binaries refer to a function that none of them defines: their users must.
  bool is_left_to_users(const DeclaredFunction& function) const;
  HowDefined how(const DeclaredFunction& function) const;

 private:
  void add(std::string_view symbol, const Target& target);
  void add_plain(std::string_view symbol, const Target& target, bool defined);

  std::set<std::string, std::less<>> c_names_;    ///< without the format's underscore and decoration
  std::set<std::string, std::less<>> decorated_;  ///< of those, what has a calling convention's: `f@8`
  std::set<std::string, std::less<>> needed_;     ///< C names
  std::set<std::string, std::less<>> cxx_names_;  ///< with namespaces, without parameters
};

}  // namespace fibula
