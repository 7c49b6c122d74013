/// The includes that the project's own sources write, looked up before a compiler does.
#pragma once

#include "fit/gathered.hpp"

namespace fibula {

/// Includes of sources, and of the project's headers that they reach, that no directory of the lane finds, each told
/// once with what to write instead. Only what every build would include is judged: what a conditional decides is the
/// compiler's to say.
std::vector<Misfit> missing_includes(Gathered::State& state, const GatheredLane& lane, const Fit& fit);

}  // namespace fibula
