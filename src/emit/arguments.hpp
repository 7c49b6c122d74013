/// Command lines for single sources, for the build and for the compilation database.
#pragma once

#include <fibula/emit.hpp>

namespace fibula {

enum class Language { c, cxx, assembly };

/// By the ending of the name, as GCC and Clang decide.
Language language_of(const std::filesystem::path& source);

/// The driver for a source: the lane's compiler, or its C sister for C and assembly (`g++` -> `gcc`).
std::string driver_for(const Fit& fit, Language language);

/// The whole command that compiles a source of an output to its object, with a dependency file beside it.
std::vector<std::string> compile_command(const Project& project, const Fit& fit, const Output& output,
                                         const std::filesystem::path& source);

/// Where a program that is made by hand at the top of the project finds its run-time files: beside itself, and where
/// the build puts them.
std::vector<std::string> run_paths_by_hand(const Fit& fit);

}  // namespace fibula
