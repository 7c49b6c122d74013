/// The build steps that a source tree brings, as its documents would give them.
#pragma once

#include "take/source.hpp"

namespace fibula {

/// Steps for the shell, with the variables of docs/files.md; none where its sources do without. `configured`: some of
/// them ask for `config.h`.
std::vector<std::string> proposed_steps(const Source& source, bool configured);

}  // namespace fibula
