/// What `attach` changes can be taken back: what stood there before is kept in `.fibula/before-attach`.
#pragma once

#include <fibula/project.hpp>

namespace fibula {

/// Keeps the project's file and lock as they are, before the file becomes `after`. Errors: io.
Result<void> keep_before(const Project& project, const std::string& after);

}  // namespace fibula
