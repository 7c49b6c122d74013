#pragma once

#include "base/bytes.hpp"

#include <filesystem>
#include <memory>

namespace fibula {

/// A file mapped read-only. Pages are read only when they are touched; bytes handed out live as long as this object.
class MappedFile {
 public:
  /// Maps a regular file. Errors: absent, unreadable (folder, device, no permission).
  static Result<std::shared_ptr<const MappedFile>> open(const std::filesystem::path& path);

  MappedFile(const MappedFile&) = delete;
  MappedFile& operator=(const MappedFile&) = delete;
  ~MappedFile();

  Bytes bytes() const { return Bytes({data_, size_}); }
  const std::filesystem::path& path() const { return path_; }

 private:
  MappedFile(std::filesystem::path path, const std::byte* data, size_t size)
      : path_(std::move(path)), data_(data), size_(size) {}

  std::filesystem::path path_;
  const std::byte* data_;
  size_t size_;
};

}  // namespace fibula
