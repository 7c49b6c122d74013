/// The machine that Fibula runs on.
#pragma once

#include <fibula/target.hpp>

#include <filesystem>
#include <optional>
#include <string>

namespace fibula {

/// The architecture of this machine's own programs.
Arch host_architecture();

/// Whether its owner, its group or others may run the file, and this process is among them.
bool is_executable(const std::filesystem::path& path);

/// Where folders for a moment are made: what TMPDIR names when that is a folder, else /tmp.
std::filesystem::path temporary_place();

}  // namespace fibula
