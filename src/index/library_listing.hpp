/// The library files of a directory, as linkers look for them.
#pragma once

#include "os/stamp.hpp"

#include <filesystem>
#include <vector>

namespace fibula {

struct ListedLibrary {
  std::filesystem::path path;
  Stamp stamp;
};

/// Every static, shared and import library, sorted by name. A file with several names is listed once: under the name
/// that `-l` finds, else the shortest.
std::vector<ListedLibrary> list_libraries(const std::filesystem::path& directory);

}  // namespace fibula
