#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>

namespace fibula {

/// What tells one file from another, and whether it changed: one call to the system, links followed.
struct FileStamp {
  uint64_t device = 0;
  uint64_t number = 0;  ///< of the file on its device: two names with one number are one file
  uint64_t size = 0;    ///< bytes
  int64_t time = 0;     ///< of the last change, nanoseconds

  bool same_file(const FileStamp& other) const { return device == other.device && number == other.number; }
};

/// Nothing for what is no regular file.
std::optional<FileStamp> stamp_of(const std::filesystem::path& path);

}  // namespace fibula
