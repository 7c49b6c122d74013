/// The version of these headers, and of the library that is linked.
#pragma once

#include <fibula/export.hpp>

#include <string_view>

// The one place where the version stands: the build reads it here.
#define FIBULA_VERSION_MAJOR 0
#define FIBULA_VERSION_MINOR 2
#define FIBULA_VERSION_PATCH 0

namespace fibula {

/// "0.2.0": of the library. Programs that link a shared library can compare it with the macros of the headers that they
/// were compiled with.
FIBULA_API std::string_view version();

}  // namespace fibula
