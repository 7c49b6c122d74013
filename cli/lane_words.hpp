/// What is said of lanes in several commands.
#pragma once

#include <fibula/lane.hpp>
#include <fibula/toolchain.hpp>

#include <string>
#include <vector>

namespace cli {

/// "glibc 2.36, libstdc++ 3.4.30, new strings", "hard float": what most often decides whether a library fits.
std::string run_time_of(const fibula::Toolchain& toolchain);

/// One line a lane that was written, and how its programs start here.
void print_added(const std::vector<fibula::ProposedLane>& lanes);

}  // namespace cli
