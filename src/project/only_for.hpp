/// Sources that are not for every lane.
#pragma once

#include "base/toml.hpp"

#include <fibula/project.hpp>

#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace fibula {

/// `only-for = { "src/*_win32.c" = "windows", "src/poll.c" = ["linux", "macos"] }` of an output; `lines` learns where
/// each pattern stands. Errors: reported to the reader.
std::map<std::string, std::vector<std::string>> read_only_for(toml::Reader& reader,
                                                              std::map<std::string, unsigned>& lines);

/// Those of an output's files that a lane takes: where patterns of `only-for` mean a file, each must name the lane or
/// its system (as a card's `system` does).
std::vector<std::filesystem::path> files_for_lane(const Project& project, const Output& output,
                                                  std::vector<std::filesystem::path> files, const std::string& lane,
                                                  const std::string& system);

/// What is wrong with an output's `only-for`: a pattern that means none of its files, or a name that is neither a
/// system nor a lane. Errors: usage (with the line).
Result<void> check_only_for(const Project& project, const Output& output,
                            const std::vector<std::filesystem::path>& files);

}  // namespace fibula
