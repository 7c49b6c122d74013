/// Programs that come with others, to try or to show something.
#pragma once

#include <filesystem>
#include <string>

namespace fibula {

class SidePrograms {
 public:
  explicit SidePrograms(const std::filesystem::path& root);

  /// By the folders that it lies in: samples, documents, measurements; tests too where the tree has a build of its own,
  /// so that what its user wants is the program.
  bool has(const std::string& file) const;

 private:
  bool with_tests_;
};

}  // namespace fibula
