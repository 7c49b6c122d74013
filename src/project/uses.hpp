/// Who uses what among a project's outputs.
#pragma once

#include <fibula/project.hpp>

namespace fibula {

/// Outputs are called differently, and none uses itself by a detour. Errors: malformed.
Result<void> check_outputs(const std::vector<Output>& outputs, const std::filesystem::path& file);

/// Names that an output uses must be there: asked where they are needed, so that what is missing can be attached.
/// Errors: malformed.
Result<void> check_uses(const std::vector<LibraryUse>& libraries, const std::vector<Output>& outputs,
                        const std::filesystem::path& file);

}  // namespace fibula
