#pragma once

#include "build/jobs_of.hpp"
#include "build/recipe.hpp"
#include "fit/gathered.hpp"

namespace fibula {

/// What a lane ran, for builds after small changes. Nothing where its plan rests on more than what a recipe's links are
/// compared by: misfits of links, which quote the sources; linker scripts, where sizes count; functions that only the
/// sources have; other formats than ELF; commands that write beside what they make.
std::optional<Recipe> recipe_of(Gathered::State& gathered, const Fit& fit, LaneJobs& jobs, std::vector<Job> others);

}  // namespace fibula
