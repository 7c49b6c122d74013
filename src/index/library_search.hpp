/// How linkers look for the libraries that commands name.
#pragma once

#include <fibula/toolchain.hpp>

#include <optional>

namespace fibula {

/// What linkers of one kind have in common beyond what they all do.
enum class Linking {
  elf,
  gnu_pe,  ///< GNU-style linkers of Windows programs: data is imported by itself
  msvc,    ///< MSVC-style ones: objects name default libraries and alternate names; archives may stand anywhere
  macho,   ///< Apple's: archives may stand anywhere
};
Linking linking_of(const Toolchain& toolchain);

/// The file that `-lname` finds: in each directory the shared library before the archive (GNU ld manual, `-l`, and its
/// section on Windows; for MSVC-style linkers the name as it is, then with .lib). `:name` is a file's own name.
std::optional<std::filesystem::path> find_library(const std::vector<std::filesystem::path>& search,
                                                  const std::string& name, bool only_static,
                                                  Linking linking = Linking::elf);

}  // namespace fibula
