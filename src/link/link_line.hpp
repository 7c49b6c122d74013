/// A linker's command line as a list of steps with real files in it.
#pragma once

#include <fibula/link.hpp>

#include "index/library_search.hpp"

namespace fibula {

struct LinkLine {
  Linking linking = Linking::elf;
  Target target = {};  ///< of the lane
  /// Whether a weak definition serves other objects: the BFD linker of Windows programs uses it in its own object only.
  bool weak_serves_others = true;
  std::vector<LinkStep> steps;  ///< no user_inputs; libraries found are files, those not found stay libraries
  std::vector<std::filesystem::path> search;
};

/// The whole line: what the driver adds, with `inputs` where the user's files stand.
LinkLine whole_line(const Toolchain& toolchain, const std::vector<LinkStep>& inputs);

/// The files that it names, in its order.
std::vector<std::filesystem::path> files_of(const LinkLine& line);

/// The steps that a list of inputs stands for.
std::vector<LinkStep> steps_of(const std::vector<LinkInput>& inputs);

}  // namespace fibula
