/// The fits of lanes, as `fit` makes them.
#pragma once

#include <fibula/fit.hpp>
#include <fibula/gather.hpp>

#include <vector>

namespace cli {

/// One for each lane, with what earlier builds made of the project's own code. Errors: those of `gather` and `plan`.
fibula::Result<std::vector<fibula::Fit>> plan_lanes(const fibula::Project& project,
                                                    const std::vector<fibula::Lane>& lanes, const fibula::Shelf& shelf,
                                                    const fibula::GatherOptions& wishes = {});

}  // namespace cli
