/// Run-time files beside the programs that need them.
#pragma once

#include <fibula/fit.hpp>

namespace fibula {

/// Puts the run-time files of a fit beside its programs (`<lane folder>/bin`) under the names by which the loader asks
/// for them: hard links where possible, copies elsewhere; files that are there already are left alone. Errors: absent
/// (a file left the shelf), io.
FIBULA_API Result<bool> place_runtime_files(const Fit& fit);

}  // namespace fibula
