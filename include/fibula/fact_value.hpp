/// Values of facts, whatever their kind: for those who list facts without knowing each.
#pragma once

#include <fibula/need.hpp>
#include <fibula/pic.hpp>

#include <cstdint>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace fibula {

/// A compiler, a system or a form, and its version: {"gcc", "12.2.0"}, {"linux", "3.2.0"}, {"DWARF", "5"}.
struct NamedVersion {
  std::string name;
  std::string version = {};  ///< empty: not told

  bool operator==(const NamedVersion&) const = default;
};

/// Code that only a compiler can finish, when it links.
struct LinkTimeCode {
  std::string maker;          ///< GCC, LLVM, MSVC
  std::string version = {};   ///< of its format or compiler; empty: not told
  bool machine_code = false;  ///< beside ordinary code, which other linkers take

  bool operator==(const LinkTimeCode&) const = default;
};

using FactValue = std::variant<std::string,               // a name, or a version
                               int64_t,                   // a number
                               bool,                      // a flag
                               std::vector<std::string>,  // names, in order
                               NamedVersion, LinkTimeCode, PicReport, std::vector<Need>>;

/// The form that the values of a fact have, in the order of FactValue.
enum class FactForm { name, number, flag, names, named_version, link_time_code, pic, needs };

/// The form of a fact's values, by its id: "float-abi" -> name. Nothing is called by another id: `name`.
FIBULA_API FactForm form_of(std::string_view id);
/// Whether there is a fact of this id.
FIBULA_API bool is_fact(std::string_view id);
/// The ids of all facts.
FIBULA_API std::vector<std::string> fact_ids();

/// The one place where values become words for people: "GCC 12.0 only", "linux 3.2.0", "libm.so.6, libc.so.6". Nothing
/// reads them back.
FIBULA_API std::string to_text(const FactValue& value);

}  // namespace fibula
