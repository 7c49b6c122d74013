#pragma once

#include "base/toml.hpp"

namespace fibula {

/// Reads a TOML file. Errors: absent, unreadable, limit, malformed (with file and line).
Result<toml::Table> read_toml(const std::filesystem::path& path);

}  // namespace fibula
