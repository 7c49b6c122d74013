/// A log that a command reads.
#pragma once

#include <fibula/result.hpp>

#include <string>

namespace cli {

/// A file's text, or standard input for `-` and nothing. Errors: absent, unreadable (no regular file).
fibula::Result<std::string> read_log_file(const std::string& path);

}  // namespace cli
