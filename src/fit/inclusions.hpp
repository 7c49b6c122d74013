/// How a project's own files include a library's headers.
#pragma once

#include <filesystem>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// Whether one of these C++ files includes one of these headers (as written behind #include) outside of extern "C".
bool includes_as_cxx(const std::vector<std::filesystem::path>& files, const std::set<std::string>& headers);

}  // namespace fibula
