/// Whether what a header includes is there.
#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace fibula {

class IncludeReach {
 public:
  /// `directories`: those on the include path, then the compiler's own. `cxx`: the language that headers are read in;
  /// one without C++ finds no header of its library.
  IncludeReach(std::vector<std::filesystem::path> directories, bool cxx)
      : directories_(std::move(directories)), cxx_(cxx) {}

  /// Whether a header is found, and all that it and these include under no condition. What is not found ends a compile
  /// at once, so a compiler tells only the first.
  bool reaches_all(const std::string& name);

 private:
  bool reaches_all(const std::filesystem::path& file);
  std::filesystem::path find(const std::string& name) const;

  std::vector<std::filesystem::path> directories_;
  bool cxx_;
  std::map<std::filesystem::path, bool> known_;
};

}  // namespace fibula
