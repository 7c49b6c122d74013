/// The first half of taking: from what the user named to a folder with files in it.
#pragma once

#include <fibula/take.hpp>

namespace fibula {

struct Arrival {
  std::filesystem::path root;
  bool own = false;  ///< it lies in the place that was given, and may be moved
  Origin origin;
  std::string called;   ///< what it came as: "tidecalc-2.1.0.zip"
  std::string version;  ///< that its origin gives: a tag
  std::string package;  ///< of a system's package: its name, and its version
  std::string package_version;
  std::vector<std::string> remarks;
};

/// Downloads, unpacks or checks out into `place`, an empty folder; a folder or prefix is left where it is. Errors: as
/// `take`.
Result<Arrival> arrive(const TakeRequest& request, const std::filesystem::path& place);

}  // namespace fibula
