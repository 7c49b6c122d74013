/// How a project's own files include a library's headers.
#pragma once

#include <filesystem>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// What these C++ files include outside of extern "C", as it is written behind #include.
std::set<std::string, std::less<>> included_as_cxx(const std::vector<std::filesystem::path>& files);

}  // namespace fibula
