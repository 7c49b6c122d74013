/// What the names of folders say of the system and machine that their files are for.
#pragma once

#include <fibula/target.hpp>

#include <string>

namespace fibula {

/// Whether a path has words for systems or machines, and none for those of a compiler: `prebuilds/darwin-x64/include`
/// for one of Linux.
bool names_another_target(const std::string& path, const std::string& triple, Arch arch);

}  // namespace fibula
