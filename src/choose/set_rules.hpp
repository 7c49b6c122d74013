/// Rules about the libraries of a lane together: `two-copies`, `closure`.
#pragma once

#include "choose/selection.hpp"

namespace fibula {

/// What is wrong with this set of chosen libraries, beside what each says for itself.
std::vector<Misfit> match_set(const std::vector<const Choice*>& choices, const Toolchain& toolchain);

}  // namespace fibula
