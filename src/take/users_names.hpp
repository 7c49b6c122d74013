/// Which libraries of a download give its users something, and which are named in others' bytes.
#pragma once

#include "take/units.hpp"

#include <string>
#include <vector>

namespace fibula {

/// What the public headers declare, read when it is first asked for.
class UsersNames {
 public:
  explicit UsersNames(const Source& source) : source_(source) {}

  /// Whether a library offers something of it. C++ names are mangled there: nothing is known of them, so they count
  /// where there are headers at all.
  bool are_given_by(const Unit& unit);

 private:
  const Source& source_;
  std::vector<uint64_t> declared_;
};

/// Whether a file's bytes hold a text, as C writes it or in the wide characters of Windows (UTF-16, little endian).
bool is_named_in(const std::filesystem::path& file, const std::string& name);

/// Whether a file says that it needs a run-time file of this name, in any letters.
bool asks_for(const Facts& facts, const std::string& runtime_name);
/// Whether one of a library's files does.
bool is_imported_by(const Unit& unit, const std::string& runtime_name);

}  // namespace fibula
