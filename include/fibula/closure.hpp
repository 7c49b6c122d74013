/// The run-time files that a program or library needs, found as its loader would find them.
#pragma once

#include <fibula/facts.hpp>

#include <string>
#include <vector>

namespace fibula {

enum class NeedStatus {
  found,               ///< where a path recorded in the files leads, or beside a Windows program
  system,              ///< part of the system: in a standard directory, or a DLL of the system itself
  by_luck,             ///< it is there, and nothing tells the loader where
  missing,             ///< nowhere
  wrong_architecture,  ///< only for another machine
  lacks_version,       ///< there, without a symbol version that is needed
};
FIBULA_API std::string_view to_string(NeedStatus status);

struct ClosureEntry {
  std::string name;       ///< as asked for
  std::string path;       ///< empty when it was not found
  std::string needed_by;  ///< the path of the first file that asks for it
  NeedStatus status = NeedStatus::missing;
  std::string why;  ///< how it was found, or what is wrong
};

/// Follows needs to the last one, breadth first; each name once. Standard directories are those of this machine's
/// loader. Errors: as `inspect`, for the file itself.
FIBULA_API Result<std::vector<ClosureEntry>> closure_of(const std::filesystem::path& path);

}  // namespace fibula
