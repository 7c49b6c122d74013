/// Reads the headers of chosen libraries with the lane's compiler and lets the header rules judge them.
#pragma once

#include "choose/selection.hpp"

namespace fibula {

struct HeaderTask {
  const Choice* choice;
  Pairing pairing;
};

struct HeaderLane {
  const Toolchain& toolchain;
  bool cxx;                                      ///< the project includes them in C++
  std::vector<std::filesystem::path> cxx_files;  ///< of the project
  std::vector<std::string> flags;
  std::vector<std::string> definitions;
  std::vector<std::filesystem::path> include_directories;
  std::string standard;  ///< the project's; empty: the compiler's own
};

/// What is said of each task's headers, in their order. Compilers run side by side, two runs a library when all is
/// well; what was said is kept under the user's cache folder until the compiler, the library or the settings change.
std::vector<std::vector<Misfit>> check_headers(const HeaderLane& lane, const std::vector<HeaderTask>& tasks);

}  // namespace fibula
