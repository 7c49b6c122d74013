/// The lock file, `fibula.lock`: what was chosen for each lane, with the digests of its files, so that the same fit can
/// be had again elsewhere, or its absence told.
#pragma once

#include <fibula/fit.hpp>

namespace fibula {

/// Writes what these fits chose; lanes that are not among them, and libraries whose locked version was not there, keep
/// what they had. Also notes on the shelf that the project uses them. True when the file was changed. Errors:
/// malformed lock file, io.
FIBULA_API Result<bool> keep_choices(const Project& project, const std::vector<Fit>& fits, const Shelf& shelf);

/// What a fit chose otherwise than the lock file says.
struct LockChange {
  std::string lane;
  std::string library;
  std::string before;  ///< "2.1.0, x86_64-elf-static"; empty: the lock has nothing
  std::string after;   ///< empty: the project uses it no more, or nothing fits
};

/// How these fits differ from the lock file, lane by lane. Errors: malformed lock file.
FIBULA_API Result<std::vector<LockChange>> compare_with_lock(const Project& project, const std::vector<Fit>& fits);

/// Whether these fits are what the lock file says, library by library and digest by digest. Errors: malformed lock
/// file, refused (with what differs: something would be chosen anew).
FIBULA_API Result<void> check_as_locked(const Project& project, const std::vector<Fit>& fits);

}  // namespace fibula
