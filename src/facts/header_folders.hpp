#pragma once

#include <string>
#include <vector>

namespace fibula {

bool is_header_name(const std::string& file);

/// Directories, relative to the root that the headers are relative to, that must stand on the include path for them.
std::vector<std::string> include_directories(const std::vector<std::string>& headers);

}  // namespace fibula
