/// Headers that a configure step would make, written from their templates so that each compiler fills them in by
/// itself.
#pragma once

#include <cstddef>
#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// The header's name that a template is for: "config.h" for config.h.in, config.h.cmake, config.h.cmake.in; empty for
/// other files.
std::string header_of_template(const std::string& file);

struct FilledTemplate {
  std::string text;
  size_t open = 0;      ///< lines that ask for a value which is not known: left out
  size_t borrowed = 0;  ///< lines with a value that its makers gave elsewhere
};

/// Numbers by the macros that a header defines: what its makers chose where they wrote it themselves.
using ChosenValues = std::map<std::string, std::string>;
ChosenValues chosen_values(std::string_view header);

/// The text of the header, with the placeholders of `SourceHeader`. What a configure script would try out is asked of
/// the compiler (`__has_include`, its macros), or is what C99 and the system promise; what nobody can know stays
/// undefined, as after a test that failed, or is what was chosen elsewhere. `name`: the library's.
FilledTemplate filled_template(std::string_view text, const std::string& name, const ChosenValues& chosen);

/// Whether a filled text says of something in it that only a configure step can settle it.
bool leaves_open(std::string_view filled);

/// Names that a filled text leaves without their values.
std::vector<std::string> names_left_open(std::string_view filled);
/// Names that it leaves undefined, as after a test that failed.
std::vector<std::string> names_left_undefined(std::string_view filled);

}  // namespace fibula
