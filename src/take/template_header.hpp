/// Headers that a configure step would make, written from their templates so that each compiler fills them in by
/// itself.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>

namespace fibula {

/// The header's name that a template is for: "config.h" for config.h.in, config.h.cmake, config.h.cmake.in; empty for
/// other files.
std::string header_of_template(const std::string& file);

struct FilledTemplate {
  std::string text;
  size_t open = 0;  ///< lines that ask for a value which is not known: left out
};

/// The text of the header, with the placeholders of `SourceHeader`. What a configure script would try out is asked of
/// the compiler (`__has_include`, its macros), or is what C99 and the system promise; what nobody can know stays
/// undefined, as after a test that failed. `name`: the library's.
FilledTemplate filled_template(std::string_view text, const std::string& name);

}  // namespace fibula
