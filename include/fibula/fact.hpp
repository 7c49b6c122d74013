/// One fact: a value that may be unknown, how sure it is, and where it was read.
#pragma once

#include <fibula/export.hpp>

#include <optional>
#include <string>
#include <string_view>

namespace fibula {

/// How a fact was learnt.
enum class Certainty {
  read,     ///< from a field that says exactly this
  derived,  ///< from several fields together
  guessed,  ///< from a name
};
FIBULA_API std::string_view to_string(Certainty certainty);

/// A value that may be unknown, with how it was learnt.
template <class T>
struct Fact {
  std::optional<T> value = {};
  Certainty certainty = Certainty::read;
  std::string from = {};  ///< "ELF header, e_machine"

  explicit operator bool() const { return value.has_value(); }
};

}  // namespace fibula
