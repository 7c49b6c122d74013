/// Which functions C libraries have, by the standards that promise them.
#pragma once

#include <string_view>

namespace fibula {

/// Functions that are there wherever a C99 library is (C99, 7).
bool is_c99_function(std::string_view name);

/// Functions that POSIX promises (POSIX.1-2017, System Interfaces).
bool is_posix_function(std::string_view name);

/// Those that glibc, musl and the C library of macOS have besides.
bool is_beyond_posix(std::string_view name);

/// Those that Linux' C libraries alone have (glibc, "Summary of Library Facilities").
bool is_of_linux(std::string_view name);

/// Those of them that MinGW-w64 has too, in the headers where POSIX has them.
bool is_also_in_mingw(std::string_view name);

}  // namespace fibula
