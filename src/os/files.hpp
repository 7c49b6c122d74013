#pragma once

#include <fibula/result.hpp>

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

namespace fs = std::filesystem;

/// The whole of a text file. Errors: absent, unreadable, limit (larger than `limit` bytes).
Result<std::string> read_text(const fs::path& path, uint64_t limit = 64U << 20U);

/// Whether a file is on the disk when the call returns, or when the system gets round to it. A journalling file system
/// writes everything else first, so this can wait for hundreds of megabytes.
enum class Flush { now, later };

/// An error of the system's while something was written: "cannot be written: No space left on device", with what to do
/// about it. `number` is one of <cerrno>.
Error io_error(const fs::path& path, std::string_view doing, int number);
Error io_error(const fs::path& path, std::string_view doing, const std::error_code& error);

/// Makes a folder and its parents. Errors: io.
Result<void> make_folder(const fs::path& path);

/// Files below `root` (not following links to folders) whose path relative to it matches the pattern, sorted.
std::vector<fs::path> files_matching(const fs::path& root, std::string_view pattern);
/// The folders in which `files_matching` looks: a file that comes to or goes from the pattern changes one of them.
std::vector<fs::path> folders_searched(const fs::path& root, std::string_view pattern);
/// The names of the files and links directly in a folder, sorted; empty when it cannot be read.
std::vector<fs::path> files_directly_in(const fs::path& folder);
/// All regular files and links below `root`, relative to it and sorted. Errors: absent, unreadable, limit
/// (more files, or folders more than 256 deep).
Result<std::vector<fs::path>> files_below(const fs::path& root, size_t limit = 1'000'000);

/// Absolute and without `.` and `..`, links left as they are; as it is where the current folder is gone.
fs::path absolute_path(const fs::path& path);
/// `path` as seen from `base` with `/`, or absolute when it lies outside of it.
std::string shown_from(const fs::path& base, const fs::path& path);
bool is_inside(const fs::path& folder, const fs::path& path);

/// Whether the disk that holds a folder has no room for a file of some size.
bool is_full(const fs::path& folder);

/// The environment variable's value when it is set and not empty.
std::optional<std::string> environment(const char* name);

/// A folder that only this user can look into, removed with everything in it unless it is kept.
class TemporaryFolder {
 public:
  /// Makes it inside `parent`. Errors: io.
  static Result<TemporaryFolder> make(const fs::path& parent, std::string_view prefix);
  TemporaryFolder(TemporaryFolder&& other) noexcept : path_(std::move(other.path_)) { other.path_.clear(); }
  TemporaryFolder& operator=(TemporaryFolder&&) = delete;
  ~TemporaryFolder();

  const fs::path& path() const { return path_; }
  /// Others may look into it.
  void show_to_all() const;
  /// It was moved to its final place: nothing is left to remove.
  void keep() { path_.clear(); }

 private:
  explicit TemporaryFolder(fs::path path) : path_(std::move(path)) {}
  fs::path path_;
};

}  // namespace fibula
