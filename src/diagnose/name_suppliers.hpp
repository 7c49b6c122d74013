/// Libraries that define what a link lacks: other copies of those on the line, those near, on the shelf, of the system.
#pragma once

#include "diagnose/link_scene.hpp"

namespace fibula {

/// A finding about one missing name, with what it is called.
Finding missing_name(std::string_view cause, const Unresolved& missing);

/// Another copy of a library that serves and defines a symbol: in the folders that are searched, then near.
std::optional<fs::path> copy_with(const LinkScene& scene, const std::string& symbol, const fs::path& file);
/// The edit that names one file in the place of another.
void replace_input(Finding& finding, const LinkScene& scene, const fs::path& file, const fs::path& by);

/// What is linked is not what was meant.
std::optional<Finding> other_copy(const LinkScene& scene, const Unresolved& missing);
std::optional<Finding> near_library(const LinkScene& scene, const Unresolved& missing);
/// On the shelf or in the compiler's folders.
std::optional<Finding> known_library(const LinkScene& scene, const Unresolved& missing);
/// Nobody has it; a name that is nearly it is told.
Finding undefined_name(const LinkScene& scene, const Unresolved& missing);

}  // namespace fibula
