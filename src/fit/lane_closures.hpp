/// The closures of what a lane makes, seen from where it is built.
#pragma once

#include <fibula/fit.hpp>

#include "loader/closure.hpp"

#include <set>

namespace fibula {

/// Of each program and shared library: as its product says where it is among the own code, else as its link inputs say.
/// `placed` are the names of files that an earlier build put beside the programs: they are not there by themselves.
/// Errors: those of a product that cannot be read.
Result<std::vector<FileClosure>> closures_of_lane(const Project& project, const Fit& fit, const OwnCode& own,
                                                  const std::set<std::string>& placed, const Cache& cache);

}  // namespace fibula
