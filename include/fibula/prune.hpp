/// What a shelf keeps that nobody uses.
#pragma once

#include <fibula/shelf.hpp>

#include <chrono>
#include <string>
#include <vector>

namespace fibula {

struct UnusedVersion {
  std::string name, version;
  std::string why;  ///< "never used", "no lock file of the 2 projects that used it names it"
};

/// Versions in the first folder of a shelf that came longer ago than `older`, are not the newest of their library, and
/// that no lock file of the projects that used them names. A project that is gone names nothing. Errors: those of
/// cards; a lock file that cannot be read counts as one that names the version.
FIBULA_API Result<std::vector<UnusedVersion>> unused_versions(const Shelf& shelf, std::chrono::seconds older);

}  // namespace fibula
