/// Where loaders look for a needed file: glibc's and its relatives (ld.so(8)), Windows' (the order of its documentation
/// on DLL search), macOS' (dyld(1)).
#pragma once

#include <fibula/closure.hpp>
#include <fibula/target.hpp>

#include "binary/image.hpp"

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

/// A file that needs others, with what it says about where they are.
struct Asker {
  std::filesystem::path path;
  Target target;
  std::vector<std::string> runpath;  ///< for its own needs only; expanded
  std::vector<std::string> rpath;    ///< its own and those of the files that asked for it; given on; expanded
};

/// `inherited`: the paths that the files on the way to this one give to their needs as well.
Asker asker_of(const std::filesystem::path& path, const Image& image, const std::vector<std::string>& inherited);

struct Found {
  std::filesystem::path path;
  NeedStatus status = NeedStatus::missing;
  std::string why;
};

/// `root` is the folder of the program or library that was asked about.
Found find_as_loader(const Asker& asker, const std::string& name, const std::filesystem::path& root);

}  // namespace fibula
