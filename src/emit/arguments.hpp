/// Command lines for single sources, for the build and for the compilation database.
#pragma once

#include <fibula/emit.hpp>

#include "project/source_kind.hpp"

namespace fibula {

/// The driver for a source: the lane's compiler, or its C sister for C and assembly (`g++` -> `gcc`).
std::string driver_for(const Fit& fit, SourceKind kind);

/// The whole command that compiles a source of an output to `object`, with a dependency file beside it.
std::vector<std::string> compile_command(const Project& project, const Fit& fit, const Output& output,
                                         const std::filesystem::path& source, const std::string& object);

/// Whether the lane's linker can write a list of what it read.
bool tells_its_inputs(const Toolchain& toolchain);

/// Where a program that is made by hand at the top of the project finds its run-time files: beside itself, and where
/// the build puts them.
std::vector<std::string> run_paths_by_hand(const Fit& fit);

}  // namespace fibula
