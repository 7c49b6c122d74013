/// Which directories must stand on the include path, so that a library's headers find each other as they are written.
#pragma once

#include <filesystem>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace fibula {

struct HeaderRoots {
  std::vector<std::string> directories;  ///< relative to the library's folder
  /// What the public headers include and the library does not have, with the first header that does.
  std::map<std::string, std::string> elsewhere;
};

struct HeaderQuestion {
  std::filesystem::path root;
  std::string library;                ///< its name, as far as it is known
  std::vector<std::string> headers;   ///< relative to the root
  std::vector<std::string> examples;  ///< files that include them as users would: samples, tests
  std::vector<std::string> insiders;  ///< the library's own sources, which may reach more than users do
};

HeaderRoots header_roots(const HeaderQuestion& question);

/// Whether compilers for Linux find a header of that name by themselves, with no library installed.
bool comes_with_system(const std::string& name);

}  // namespace fibula
