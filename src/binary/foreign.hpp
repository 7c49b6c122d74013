/// Files that stand where a library should, and are none: told by name, with what to do.
#pragma once

#include "base/bytes.hpp"

namespace fibula {

/// What a file is that no reader takes, as an error with a remedy (Code::not_a_library).
Error name_foreign(Bytes bytes);

/// A package of Debian, which is an ar archive too.
bool is_package(Bytes bytes);

}  // namespace fibula
