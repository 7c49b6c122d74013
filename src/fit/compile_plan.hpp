/// The part of a fit that is there before anything is compiled: libraries, include directories, definitions, files to
/// run with.
#pragma once

#include "fit/gathered.hpp"

namespace fibula {

/// A fit without links and closures, and without what the headers say.
Fit compile_plan(const Project& project, const GatheredLane& lane);

/// Adds what rules say of a library to it.
void add_words(Fit& fit, const std::string& library, std::vector<Misfit> said);

}  // namespace fibula
