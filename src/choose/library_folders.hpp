/// Libraries that lie in a project's own folder.
#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

struct LibraryFolder {
  std::string name;    ///< what its files say
  std::string folder;  ///< relative to the project
};

struct LibraryFolders {
  std::vector<LibraryFolder> found;
  std::vector<Error> refused;        ///< folders of which no library could be made
  std::vector<std::string> shelves;  ///< folders with the entries of a shelf
};

/// Looks at what lies in folders that are called after what they hold (`lib/tern`, `vendor/pebble`), at folders with
/// binaries, and at those with a card. A shelf is none of them.
LibraryFolders library_folders(const std::filesystem::path& root);

}  // namespace fibula
