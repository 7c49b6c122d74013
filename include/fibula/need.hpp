/// Run-time files that a binary asks for.
#pragma once

#include <fibula/export.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

enum class NeedKind {
  ordinary,   ///< must be there when the program starts
  weak,       ///< may be absent (Mach-O, LC_LOAD_WEAK_DYLIB)
  delayed,    ///< looked for when first called (PE delay import, Mach-O lazy load)
  re_export,  ///< its symbols are given on as one's own (Mach-O)
};
FIBULA_API std::string_view to_string(NeedKind kind);

/// A run-time file asked for by name.
struct Need {
  std::string name;
  std::vector<std::string> versions = {};  ///< symbol versions it must define
  NeedKind kind = NeedKind::ordinary;

  bool operator==(const Need&) const = default;
};

}  // namespace fibula
