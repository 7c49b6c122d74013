/// Definitions that the program has, and that give the linker nothing.
#pragma once

#include "diagnose/link_scene.hpp"

#include <optional>

namespace fibula {

/// A class's table, a template of another source, a function that C has inline only.
std::optional<Finding> unlinked_definition(const LinkScene& scene, const Unresolved& missing);

}  // namespace fibula
