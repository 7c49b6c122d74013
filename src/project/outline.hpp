/// What the sources in a folder make, as far as their text tells.
#pragma once

#include <fibula/project.hpp>

#include "project/project_code.hpp"

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

struct Outlined {
  std::vector<Output> outputs;
  /// Of which only templates are there, filled in, with the paths at which they are to be written.
  std::vector<SourceHeader> headers;
  std::vector<std::string> remarks;  ///< what is left out, and what was made
};

/// A program for each source with a `main`, with the sources that it calls; where none has one, a static library of
/// all. Folders of `skipped` (relative to `root`), hidden folders, those that builds fill and those of other projects
/// are no part of it, nor are sources for systems that `lanes` are not for. No outputs where there is no source.
/// Errors: those of reading the folder.
Result<Outlined> outline(const std::filesystem::path& root, const std::vector<std::string>& skipped,
                         const BuildsFor& lanes);

}  // namespace fibula
