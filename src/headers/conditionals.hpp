/// What a header makes of the macros that its users may define, as far as its conditionals tell.
#pragma once

#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// Definitions that decide whether a header declares imports from a DLL.
struct ImportMacros {
  std::vector<std::string> for_shared;  ///< with one of these it declares imports, without it does not
  std::vector<std::string> for_static;  ///< without it declares imports, with one of these it does not
  bool always = false;                  ///< it declares imports, and no single definition changes that
  unsigned line = 0;                    ///< of the first `dllimport`
};

/// Reads the conditionals around `__declspec(dllimport)`, as a compiler for Windows would that defines
/// `predefined`. Texts without the word give nothing.
ImportMacros import_macros(std::string_view header, const std::set<std::string, std::less<>>& predefined);

}  // namespace fibula
