#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <memory>
#include <optional>

namespace fibula {

/// An exclusive lock on a file of its own; the system releases it if this process dies.
class FileLock {
 public:
  /// Makes the file where it is not there, and waits until nobody else holds the lock. Errors: io.
  static Result<FileLock> take(const std::filesystem::path& file);
  /// The same without waiting: nothing where somebody else holds it. Errors: io.
  static Result<std::optional<FileLock>> try_take(const std::filesystem::path& file);
  /// Whether somebody holds the lock of this file now. False where there is no such file.
  static bool is_held(const std::filesystem::path& file);

  FileLock(FileLock&&) noexcept;
  FileLock& operator=(FileLock&&) noexcept;
  ~FileLock();

 private:
  struct Handle;
  explicit FileLock(std::unique_ptr<Handle> handle);
  std::unique_ptr<Handle> handle_;
};

}  // namespace fibula
