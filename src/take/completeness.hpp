/// Whether what arrived can be a library.
#pragma once

#include "take/source.hpp"

#include <fibula/take.hpp>

namespace fibula {

/// Errors: refused (nothing that a program could use, or headers alone that leave functions to a binary). `path` is
/// what was named.
Result<void> check_complete(Source& source, const SourceCode& code, const std::string& path,
                            const TakeRequest& request);

}  // namespace fibula
