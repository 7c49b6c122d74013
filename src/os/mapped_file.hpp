#pragma once

#include "base/bytes.hpp"

#include <filesystem>
#include <memory>

namespace fibula {

/// Whether a file's bytes stay where they are, or are copied: a mapping of a file that somebody writes to in place
/// changes under the reader, and ends the program when the file becomes shorter.
enum class Access { map, copy };

/// A file mapped read-only, or a copy of it. Pages are read only when they are touched; bytes handed out live as long
/// as this object.
class MappedFile {
 public:
  /// Maps a regular file. Errors: absent, unreadable (folder, device, no permission).
  static Result<std::shared_ptr<const MappedFile>> open(const std::filesystem::path& path, Access access = Access::map);

  MappedFile(const MappedFile&) = delete;
  MappedFile& operator=(const MappedFile&) = delete;
  ~MappedFile();

  Bytes bytes() const {
    return data_ != nullptr ? Bytes({data_, size_}) : Bytes(std::as_bytes(std::span(copy_.data(), copy_.size())));
  }
  const std::filesystem::path& path() const { return path_; }

 private:
  MappedFile(std::filesystem::path path, const std::byte* data, size_t size, std::string copy = {})
      : path_(std::move(path)), copy_(std::move(copy)), data_(data), size_(size) {}

  std::filesystem::path path_;
  std::string copy_;
  const std::byte* data_;
  size_t size_;
};

}  // namespace fibula
