/// What starts programs on this machine.
#pragma once

#include <fibula/lane.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

/// The compiler that a project starts with; the usual one where none is found, so that the file names what is missing.
std::string usual_compiler(bool only_c);
bool is_installed(const std::string& program);

/// Whether this machine's kernel starts such programs without help.
bool starts_here(const Target& target);

/// An emulator, with its options, that is installed here together with what such programs need of their system; empty
/// where there is none. `roots` are folders in which the system's loader may lie, beside those where Debian has it.
std::string starter_for(const Target& target, const std::vector<std::filesystem::path>& roots = {});

/// Whether a program that a lane's compiler made starts here: a tiny one is compiled, started, and must end as it was
/// told to. Gives why not; empty: it does. That it does is kept for as long as compiler and starter are the same.
std::string why_not_started(const Lane& lane, const Toolchain& toolchain, const Cache& cache);

}  // namespace fibula
