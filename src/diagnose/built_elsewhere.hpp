/// Files that name others by paths of the machine on which they were made.
#pragma once

#include "diagnose/link_scene.hpp"

#include <optional>
#include <string>

namespace fibula {

/// A linker script in place of a library that names a file which is not there.
std::optional<Finding> script_of_elsewhere(const LinkScene& scene, const SceneInput& input);

/// A run-time file that is asked for by an absolute path where nothing is. False: it is asked for by name, or where its
/// system has its own.
bool asked_for_elsewhere(Finding& finding, const std::string& path, const fs::path& user);

}  // namespace fibula
