/// What linkers take in place of a name that nothing defines.
#pragma once

#include "link/link_line.hpp"
#include "link/symbol_table.hpp"

#include <map>
#include <set>

namespace fibula {

/// `/ALTERNATENAME:a=b` of an MSVC-style object: b serves where nothing defines a.
using AlternateNames = std::map<std::string_view, std::string_view>;

/// What the directives in objects of MSVC's kind ask of the linker (PE Format, "The .drectve Section").
struct LinkDirectives {
  AlternateNames alternates;
  std::vector<std::string> default_libraries;  ///< in the order in which they were named, each once
  std::set<std::string> no_default_libraries;  ///< lower case; one empty name stands for all

  void read(const Image& image);
  void add_default_library(const std::string& name);
};

/// Whether something that is in the link stands in for an undefined name. Windows, GNU-style: `foo` is served by an
/// import of foo (ld manual, --enable-auto-import), `_foo@8` and `_foo` serve each other (--enable-stdcall-fixup).
/// MSVC-style: `__imp_foo` is served by foo itself, and alternate names count.
bool has_substitute(std::string_view name, const SymbolTable& table, const LinkLine& line,
                    const AlternateNames& alternates);

/// The name that an import stands for, `foo` for `__imp_foo`; empty for other names.
std::string_view imported_name(std::string_view name);

}  // namespace fibula
