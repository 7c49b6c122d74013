/// Using a library in a project, and no longer using it.
#pragma once

#include <fibula/lane.hpp>
#include <fibula/shelf.hpp>

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace fibula {

/// A version that would have been newer, and why it was not taken.
struct PassedOver {
  std::string version;
  std::string lane;
  std::string reason;
};

struct Attachment {
  std::string name;
  std::string version;                        ///< the one on the shelf that the range takes
  std::string range;                          ///< what was written
  std::string before = {};                    ///< the version that its lanes used; empty: none
  bool changed = false;                       ///< false: it was attached like this already
  std::filesystem::path created = {};         ///< the project file, when there was none before
  std::vector<PassedOver> passed_over = {};   ///< newer versions, the newest first
  std::filesystem::path folder = {};          ///< where it lies, when it is not the shelf's
  size_t outputs = 0;                         ///< that the new project file names
  std::vector<std::string> remarks = {};      ///< about what the new project file was made of
  bool fits_everywhere = true;                ///< false: no version does, and the newest was taken
  std::vector<std::string> also_needed = {};  ///< libraries that it requires and that are not attached
};

/// Uses a library in the project of a folder; comments, order and layout of its file stay as they are. A folder without
/// a project becomes one, as `begin` makes it of what is there. `name` is one of the shelf's, a path to the library's
/// folder (with a separator in it), or the name of a library that lies in the project's folder: that is used where it
/// lies. `range` empty:
/// the newest on the shelf that fits every lane, and later ones. `linkage` none: as the project says, or any. What the
/// lock file says of the library is forgotten. Errors: refused (not on the shelf, or no version in the range),
/// malformed, io.
FIBULA_API Result<Attachment> attach(const std::filesystem::path& folder, const Shelf& shelf, const std::string& name,
                                     const std::string& range, std::optional<Linkage> linkage = {});

/// What `attach` would do, with nothing written. Errors: as `attach`.
FIBULA_API Result<Attachment> plan_attach(const std::filesystem::path& folder, const Shelf& shelf,
                                          const std::string& name, const std::string& range,
                                          std::optional<Linkage> linkage = {});

/// Makes the project's file and lock what they were before the last `attach` that changed them. Errors: absent (no
/// project), refused (there was none; the file was changed since), io.
FIBULA_API Result<void> undo_attach(const std::filesystem::path& folder);

/// Forgets what the lock file of a folder's project says of a library: the next fit chooses it anew. Errors: absent (no
/// project), malformed, io.
FIBULA_API Result<void> choose_anew(const std::filesystem::path& folder, const std::string& name);

/// Stops using a library. Errors: refused (it is not attached), malformed, io.
FIBULA_API Result<void> detach(const std::filesystem::path& folder, const std::string& name);

}  // namespace fibula
