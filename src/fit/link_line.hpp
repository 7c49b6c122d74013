/// A linker's command line as a list of steps with real files in it.
#pragma once

#include <fibula/fit.hpp>

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

struct LinkLine {
  Linking linking = Linking::elf;
  Target target = {};  ///< of the lane
  /// Whether a weak definition serves other objects: the BFD linker of Windows programs uses it in its own object only.
  bool weak_serves_others = true;
  std::vector<LinkStep> steps;  ///< no user_inputs; libraries found are files, those not found stay libraries
  std::vector<std::filesystem::path> search;
};

/// The file that `-lname` finds: in each directory the shared library before the archive (GNU ld manual, `-l`, and its
/// section on Windows; for MSVC-style linkers the name as it is, then with .lib). `:name` is a file's own name.
std::optional<std::filesystem::path> find_library(const std::vector<std::filesystem::path>& search,
                                                  const std::string& name, bool only_static,
                                                  Linking linking = Linking::elf);

/// The whole line: what the driver adds, with `inputs` where the user's files stand.
LinkLine whole_line(const Toolchain& toolchain, const std::vector<LinkStep>& inputs);

/// The steps that a list of inputs stands for.
std::vector<LinkStep> steps_of(const std::vector<LinkInput>& inputs);

}  // namespace fibula
