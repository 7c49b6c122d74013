/// Blocks of a project's file that nobody wrote yet.
#pragma once

#include <fibula/project.hpp>

#include <string>

namespace fibula {

// As a person would write them: only what would be different without being said.
std::string output_text(const Output& output);
std::string lane_text(const Lane& lane);
/// The use's `folder` is written as it stands.
std::string library_text(const LibraryUse& use);

/// A name as a part of a table's name: in quotes where TOML asks for them (TOML 1.0, "Keys").
std::string table_key(const std::string& name);

}  // namespace fibula
