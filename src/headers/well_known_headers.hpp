/// Headers that come with compilers and systems, known by their names alone.
#pragma once

#include <optional>
#include <string_view>

namespace fibula {

enum class StandardHeader { none, of_c, of_cxx };

/// Which language's standard library has a header of this name, as it is included (C17, 7.1.2; C++23, 16.4.2.3).
StandardHeader standard_header(std::string_view name);

/// Whether no library is asked for it: one of a standard library, or what compilers bring for their machines. Any
/// small-lettered name without ending or folder counts as one of C++.
bool comes_with_compilers(std::string_view name);

/// Whether many trees give a header of their own that name, as `config.h` or `../util.h`: what another library has
/// under it is not what is meant.
bool is_anybodys_header(std::string_view name);

/// Whether a C library of Linux brings it, or the kernel's headers do.
bool comes_with_linux(std::string_view name);

/// The system that alone has such a header, in any letters: "Windows", "POSIX systems", "macOS", ….
std::optional<std::string_view> system_of_header(std::string_view name);

/// The same, where a compiler of this triple is not for that system: its own headers it may lack for other reasons.
std::optional<std::string_view> other_system_of_header(std::string_view name, std::string_view triple);

}  // namespace fibula
