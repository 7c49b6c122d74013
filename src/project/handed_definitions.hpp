/// What a project's own makefiles hand to the compiler.
#pragma once

#include "making/makefile_definitions.hpp"

namespace fibula {

/// Of the makefiles at the top of a folder and in its folders of sources; also of those that a configure step fills in.
std::vector<HandedDefinition> handed_definitions(const std::filesystem::path& root);
/// The same of the makefiles among files that are known, `files` relative to `root`: also of those beside sources, but
/// for tests and samples.
std::vector<HandedDefinition> handed_definitions(const std::filesystem::path& root,
                                                 const std::vector<std::filesystem::path>& files);

}  // namespace fibula
