/// What starts programs on this machine.
#pragma once

#include <fibula/target.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

/// Whether this machine's kernel starts such programs without help.
bool starts_here(const Target& target);

/// An emulator, with its options, that is installed here together with what such programs need of their system; empty
/// where there is none. `roots` are folders in which the system's loader may lie, beside those where Debian has it.
std::string starter_for(const Target& target, const std::vector<std::filesystem::path>& roots = {});

}  // namespace fibula
