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

}  // namespace fibula
