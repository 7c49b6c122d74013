/// The library files of directories, as linkers look for them.
#pragma once

#include "base/file_stamp.hpp"

#include <filesystem>
#include <vector>

namespace fibula {

struct ListedLibrary {
  std::filesystem::path path;
  FileStamp stamp;
};

/// Every static, shared and import library, in the order of the directories, sorted by name within each. A file with
/// several names is listed once: under the name that `-l` finds, else the shortest.
std::vector<ListedLibrary> list_libraries(const std::vector<std::filesystem::path>& directories);

}  // namespace fibula
