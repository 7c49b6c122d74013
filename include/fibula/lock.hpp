/// The lock file, `fibula.lock`: what was chosen for each lane, with the digests of its files, so that the same fit can
/// be had again elsewhere, or its absence told.
#pragma once

#include <fibula/fit.hpp>

namespace fibula {

/// Writes what these fits chose; lanes that are not among them, and libraries whose locked version was not there, keep
/// what they had. Also notes on the shelf that the project uses them. True when the file was changed. Errors:
/// malformed lock file, io.
FIBULA_API Result<bool> keep_choices(const Project& project, const std::vector<Fit>& fits, const Shelf& shelf);

}  // namespace fibula
