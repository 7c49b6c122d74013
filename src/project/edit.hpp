/// Edits of a project's text that leave everything else as it is: comments, order, layout.
#pragma once

#include <fibula/project.hpp>

#include <string>
#include <string_view>

namespace fibula {

/// The text with a block for the library, put behind the other libraries; a block that is there gets the new values and
/// keeps its comments. Its `folder` is written as it stands.
std::string with_library(std::string_view text, const LibraryUse& use);

/// The text without the library's block, its lanes' overrides included, and without its name in the outputs' `uses`.
std::string without_library(std::string_view text, const std::string& name);

/// The text with the project's shelves set to these, before its first table.
std::string with_shelves(std::string_view text, const std::vector<std::string>& places);

/// The text with a block for a lane that it does not have, behind the others.
std::string with_lane(std::string_view text, const Lane& lane);

/// The text with these outputs in the place of its own.
std::string with_outputs(std::string_view text, const std::vector<Output>& outputs);

/// The text with a key of an output set to a value, or a list of it with one more value in front. The same text where
/// the output has no block of its own.
std::string with_output_value(std::string_view text, const std::string& output, const std::string& key,
                              const std::string& value);
std::string with_output_item(std::string_view text, const std::string& output, const std::string& key,
                             const std::string& item);
/// The same for a list of a library that the project uses.
std::string with_library_item(std::string_view text, const std::string& library, const std::string& key,
                              const std::string& item);

/// The text of a file that moves to another folder: libraries' folders and linker scripts are the same as before.
std::string with_paths_from(std::string_view text, const std::filesystem::path& before,
                            const std::filesystem::path& now);

}  // namespace fibula
