/// A linker's command line as a list of steps with real files in it.
#pragma once

#include <fibula/fit.hpp>

#include <optional>

namespace fibula {

struct LinkLine {
  std::vector<LinkStep> steps;  ///< no user_inputs; libraries found are files, those not found stay libraries
  std::vector<std::filesystem::path> search;
};

/// The file that `-lname` finds: in each directory the shared library before the archive (GNU ld manual, `-l`).
std::optional<std::filesystem::path> find_library(const std::vector<std::filesystem::path>& search,
                                                  const std::string& name, bool only_static);

/// The whole line: what the driver adds, with `inputs` where the user's files stand.
LinkLine whole_line(const Toolchain& toolchain, const std::vector<LinkStep>& inputs);

/// The steps that a list of inputs stands for.
std::vector<LinkStep> steps_of(const std::vector<LinkInput>& inputs);

}  // namespace fibula
