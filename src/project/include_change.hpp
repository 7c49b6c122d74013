/// Another name in an `#include` of a source.
#pragma once

#include <fibula/project_change.hpp>

#include <optional>

namespace fibula {

/// A line of a text file, from 1; empty where it has none.
std::string line_of(const std::filesystem::path& file, size_t number);

/// The line with another name in the place of one; nothing where the line does not have it.
std::optional<ProjectChange> include_change(const std::filesystem::path& file, size_t line, const std::string& name,
                                            const std::string& by);

}  // namespace fibula
