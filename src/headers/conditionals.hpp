/// What a header makes of the macros that its users may define, as far as its conditionals tell.
#pragma once

#include "headers/condition.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// Definitions that decide whether a header declares imports from a DLL.
struct ImportMacros {
  std::vector<std::string> for_shared;  ///< with one of these it declares imports, without it does not
  std::vector<std::string> for_static;  ///< without it declares imports, with one of these it does not
  std::vector<std::string> for_export;  ///< with one of these, and what a DLL's users define, it declares exports
  bool always = false;                  ///< it declares imports, and no single definition changes that
  unsigned line = 0;                    ///< of the first `dllimport`
};

/// What compilers for Windows define that headers ask for here: those of MinGW-w64, or those that speak MSVC's dialect.
const DefinedNames& macros_of_windows(bool mingw);

/// Of several macros that do the same the one that says what it is about; empty where there is none.
std::string telling_name(const std::vector<std::string>& names);

/// Reads the conditionals around `__declspec(dllimport)`, as a compiler for Windows would that defines
/// `predefined`. Texts without the word give nothing.
ImportMacros import_macros(std::string_view header, const DefinedNames& predefined);

}  // namespace fibula
