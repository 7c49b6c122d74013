/// From a lane to the system on which its programs run.
#pragma once

#include <fibula/closure.hpp>
#include <fibula/lane.hpp>

#include "loader/run_time_file.hpp"

#include <optional>

namespace fibula {

/// The sysroot that the lane's flags name; else, where this machine has not the loader that the lane's programs name,
/// the prefix of the cross compiler, whose library directories stand for the system's.
ClosureOptions system_of(const Toolchain& toolchain);

/// A run-time file that comes with the compiler, by the name under which the loader asks for it: `libstdc++-6.dll`.
std::optional<fs::path> compilers_run_time(const Toolchain& toolchain, const std::string& name);

}  // namespace fibula
