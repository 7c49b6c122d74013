/// What in a tree says that its own build makes a file.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace fibula {

/// A makefile or configure script in a folder, as a tree with a build of its own has one; empty where there is none.
std::filesystem::path own_build_in(const std::filesystem::path& folder);

/// A folder and those above it, up to `top`, which comes last.
std::vector<std::filesystem::path> folders_up_to(const std::filesystem::path& folder, const std::filesystem::path& top);

/// A configure script that makes a header, or a makefile's rule.
struct OwnMaking {
  std::filesystem::path file;  ///< the script or makefile
  unsigned line = 0;           ///< of the rule; 0: it is a script
  std::string made;            ///< as it is called there
};

/// "make level.h, in src", behind the configure step where that writes the makefile; `shown`: its folder as it is told.
std::string how_to_make(const OwnMaking& making, const std::string& shown, const std::filesystem::path& top);

/// For a name that a file in `folder` includes; looked for from there up to `top`.
std::optional<OwnMaking> own_making(const std::string& name, const std::filesystem::path& folder,
                                    const std::filesystem::path& top);

}  // namespace fibula
