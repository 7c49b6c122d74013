/// Programs that a project brings itself. Reading a project starts nothing of it; asking its compilers does, and so
/// does building. A compiler that is part of what was just downloaded is code from elsewhere: it is run after somebody
/// said so.
///
///     if (!fibula::programs_of_its_own(*project).empty() && !fibula::is_trusted(*project)) ...   // ask the user
///
/// The library leaves that to its host: `gather`, `fit`, `build` and `ask` start what they are given.
#pragma once

#include <fibula/project.hpp>
#include <fibula/result.hpp>

#include <string>
#include <vector>

namespace fibula {

/// What would run and lies inside the project, relative to it: compilers of lanes, what compiles and programs are
/// started through, and plug-ins, specs and tools that flags name. Each once.
FIBULA_API std::vector<std::string> programs_of_its_own(const Project& project);

/// Whether `trust` was called for this folder while the project's commands (compilers, flags, what is started through)
/// said the same.
FIBULA_API bool is_trusted(const Project& project);

/// Remembers it for this user: in `fibula/trusted` of the state folder (XDG Base Directory Specification). Errors:
/// missing_tool (no variable says where that folder is), io.
FIBULA_API Result<void> trust(const Project& project);

/// Whether somebody at this user's terminal agreed that something is run, told by a text that changes with it.
FIBULA_API bool is_agreed(const std::string& what);
/// Remembers it for this user. Errors: as `trust`.
FIBULA_API Result<void> note_agreement(const std::string& what);

}  // namespace fibula
