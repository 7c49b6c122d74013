/// One name in the several forms that compilers give it, and what a difference between two forms means.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace fibula {

/// A name as sources have it: `foo` of `_Z3fooi`, `__imp_foo`, `_foo@8`; with namespaces, without parameters.
std::string source_name(std::string_view symbol);

/// The same with `#` for namespaces that stand for a version of a library: `tide::#::level` of `tide::v2::level`.
std::string versionless(const std::string& name);

/// Why code that asks for one name does not get it from code that has the other, though sources call both the same.
struct FormDifference {
  std::string_view
      cause;         ///< language-linkage, decoration, import-define, string-abi, stl-debug, cxx-runtime, version-skew
  std::string asks;  ///< what the one says: "a C++ function"
  std::string has;
};
std::optional<FormDifference> difference(std::string_view wanted, std::string_view defined);

}  // namespace fibula
