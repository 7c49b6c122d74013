#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <memory>
#include <string>

namespace fibula {

/// What has come so far of one URL: the bytes, and what the server called this version of them.
class PartFile {
 public:
  PartFile(const std::filesystem::path& folder, const std::string& url);
  ~PartFile();
  PartFile(const PartFile&) = delete;
  PartFile& operator=(const PartFile&) = delete;

  /// Two processes that fetch the same file wait for each other here. The second one finds the part gone, since the
  /// first has taken it away, and begins anew. Errors: io.
  Result<void> open();
  /// The finished file under a name that nobody else uses. Errors: io.
  Result<std::filesystem::path> release() const;
  /// Forgets what has come. Errors: io.
  Result<void> restart();
  /// False, with `write_error`, when it cannot be written.
  bool append(const char* data, size_t count);
  void remove() const;
  /// Why the last of these calls failed.
  Error write_error() const;

  const std::filesystem::path& file() const { return file_; }
  uint64_t size() const { return size_; }
  std::string validator() const;
  void set_validator(const std::string& text) const;

 private:
  struct Handle;
  std::filesystem::path file_, validator_;
  std::unique_ptr<Handle> handle_;
  uint64_t size_ = 0;
};

}  // namespace fibula
