/// What the sources in a folder make, as far as their text tells.
#pragma once

#include <fibula/project.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

/// A program for each source with a `main`, with the sources that it calls; where none has one, a static library of
/// all. Folders of `skipped` (relative to `root`), hidden folders, those that builds fill and those of other projects
/// are no part of it. Empty where there is no source. Errors: those of reading the folder.
Result<std::vector<Output>> outline(const std::filesystem::path& root, const std::vector<std::string>& skipped);

/// A folder's name as one of an output or lane: other signs become `-`.
std::string name_for_output(const std::filesystem::path& folder);

}  // namespace fibula
