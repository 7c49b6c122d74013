/// Edits of a command that a project's build ran, as changes of the project.
#pragma once

#include "commands/command_change.hpp"

#include <fibula/project.hpp>
#include <fibula/project_change.hpp>

namespace fibula {

/// The output that a command compiles for: by the object that it writes, else the first one that has its source; null
/// where none does.
const Output* output_of(const Project& project, const ToolCommand& command);

/// The library that comes as source whose file a command compiles, by the object that it writes; empty where it is
/// none.
std::string library_compiled_by(const Project& project, const ToolCommand& command);

/// The changes of `fibula.toml` that make the project's build run the other words: its standard, definitions, and
/// folders of headers inside of the project. Empty where it has no key for what differs.
std::vector<ProjectChange> changes_for(const Project& project, const ToolCommand& before, const Words& after);

}  // namespace fibula
