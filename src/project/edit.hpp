/// Edits of a project's text that leave everything else as it is: comments, order, layout.
#pragma once

#include <fibula/lane.hpp>

#include <string>
#include <string_view>

namespace fibula {

/// The text with a block for the library, put behind the other libraries; a block that is there gets the new values and
/// keeps its comments.
std::string with_library(std::string_view text, const LibraryUse& use);

/// The text without the library's block, its lanes' overrides included, and without its name in the outputs' `uses`.
std::string without_library(std::string_view text, const std::string& name);

/// The text with the project's shelves set to these, before its first table.
std::string with_shelves(std::string_view text, const std::vector<std::string>& places);

/// The text of a new project: one program from these sources.
std::string new_project(const std::string& name, const std::vector<std::string>& sources, const std::string& compiler);

}  // namespace fibula
