/// Commands that see the system, and nothing of its users: for build steps of libraries that came from elsewhere.
#pragma once

#include "os/process.hpp"

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

/// A folder of this machine that a sandboxed command meets under a name of its own.
struct SandboxFolder {
  std::filesystem::path from;
  std::string as;
  bool writable = false;
};

/// The words to put before a command: it has no network, no home, an empty /tmp, sees the rest of the system without
/// being able to write, and these folders; those that are `emptied` it finds empty. It ends with the process that
/// started it. By bubblewrap. Errors: missing_tool (it is not installed, or this system lets nobody make such a room).
Result<std::vector<std::string>> sandbox_words(const std::vector<SandboxFolder>& folders, const std::string& directory,
                                               const std::vector<std::filesystem::path>& emptied = {});

}  // namespace fibula
