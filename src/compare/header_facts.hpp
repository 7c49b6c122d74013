/// What the headers of a version say, by their text and by a compiler that reads them.
#pragma once

#include "binary/debug_types.hpp"
#include "headers/declarations.hpp"

#include <fibula/card.hpp>
#include <fibula/toolchain.hpp>

#include <filesystem>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace fibula {

struct HeaderMacro {
  std::string text;  ///< with its parameters, where it has them: "(a, b) a + b"
  std::string file;
};

struct HeaderFacts {
  bool there = false;  ///< the version has headers
  std::string text;    ///< of all of them
  std::set<std::string, std::less<>> words = {};
  std::set<std::string> files = {};  ///< as they are included
  bool read = false;                 ///< a compiler read them: what follows is known
  std::string problem = {};          ///< why not
  std::map<std::string, HeaderMacro> macros = {};
  std::vector<Declaration> declarations = {};
  DebugTypes types = {};  ///< of what they define, and under `pointers` of the C functions that they declare

  /// Whether a program can know a name: some header mentions it, or there are none.
  bool mentions(std::string_view name) const { return !there || words.contains(name); }
  /// Whether a header holds the body of a structure, class, union or enumeration of this name (without namespaces).
  bool defines_type(std::string_view name) const;
};

/// Include directories of other libraries come behind the version's own. Nothing is kept.
HeaderFacts read_header_facts(const Card& card, const Toolchain* toolchain,
                              const std::vector<std::filesystem::path>& others,
                              const std::vector<std::string>& definitions = {});

}  // namespace fibula
