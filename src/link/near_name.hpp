/// A slip of the pen among names.
#pragma once

#include "link/link_file.hpp"

#include <optional>
#include <vector>

namespace fibula {

struct NearName {
  std::string name;  ///< as the file has it
  std::filesystem::path file;
};

/// The name that one of these files gives and that is nearly the missing one. Files that cannot be read give none.
std::optional<NearName> near_name(FileStore& files, const std::vector<std::filesystem::path>& libraries,
                                  const std::string& missing);

}  // namespace fibula
