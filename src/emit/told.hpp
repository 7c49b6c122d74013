/// What fits object to, each thing once for all lanes, with the line that it is about.
#pragma once

#include <fibula/fit.hpp>

#include <string>
#include <vector>

namespace fibula::emit {

struct Told {
  Misfit misfit;
  Place place;  ///< the misfit's own; else where the library is attached, else the lane, else the project's file
  std::vector<std::string> lanes;
};

/// Misfits and cautions, worst first.
std::vector<Told> told_misfits(const Project& project, const std::vector<Fit>& fits);

}  // namespace fibula::emit
