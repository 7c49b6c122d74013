/// Changes of a project that can be taken back: what stood there before is kept below `.fibula`.
#pragma once

#include <fibula/project.hpp>

#include <string>
#include <vector>

namespace fibula {

/// A kind of change whose last one can be taken back.
struct TakingBack {
  const char* place;    ///< below the project: what is kept there
  const char* nothing;  ///< what is said where there is nothing to take back
  const char* since;    ///< what is said of a file that is not as the change left it
  const char* hint;     ///< what to do instead
};

/// A file of a project that is about to change.
struct KeptFile {
  std::string inside;      ///< relative to the project
  std::string after = {};  ///< SHA-256 of what it becomes; empty: it is taken back whatever it is then
};

/// Keeps files as they are, those that are not there too. Until `seal`, nothing can be taken back. Errors: io.
Result<void> keep_files(const std::filesystem::path& root, const TakingBack& kind, const std::vector<KeptFile>& files);
/// From now on the change can be taken back. Errors: io.
Result<void> seal(const std::filesystem::path& root, const TakingBack& kind, const std::vector<KeptFile>& files);
/// Makes all files what they were, and gives those that the change was about, absolute. Errors: refused (nothing is
/// kept; a file was changed since), io.
Result<std::vector<std::filesystem::path>> take_back(const std::filesystem::path& root, const TakingBack& kind);

/// Keeps the project's file and lock as they are, before the file becomes `after` by an `attach`. Errors: io.
Result<void> keep_before(const Project& project, const std::string& after);

}  // namespace fibula
