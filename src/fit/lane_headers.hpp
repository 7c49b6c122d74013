/// The headers of a lane's libraries: what a reader is asked about them, as the lane will compile them.
#pragma once

#include "fit/gathered.hpp"
#include "os/files.hpp"

namespace fibula {

struct LaneHeaders {
  HeaderLane lane;
  std::vector<std::string> names;         ///< of the libraries whose headers are there
  std::vector<LibraryHeaders> libraries;  ///< of these
  /// Folders that are to hold headers of several libraries are not made yet: these stand in for them.
  std::vector<TemporaryFolder> stand_ins;
};

/// Reads the project's own C++ files; lanes can do this side by side. Errors: those of writing to a temporary folder.
Result<LaneHeaders> headers_of_lane(const Gathered::State& state, const GatheredLane& lane);
/// Starts the lane's compilers, side by side, where the answer is not kept.
void read_headers(const LaneHeaders& asked, GatheredLane& lane, const Cache& cache);

}  // namespace fibula
