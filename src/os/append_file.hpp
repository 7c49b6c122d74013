#pragma once

#include <fibula/result.hpp>

#include <cstdint>
#include <filesystem>
#include <memory>
#include <string_view>

namespace fibula {

/// A file that grows: what was appended is with the system when the call returns, and stays there when this process is
/// killed.
class AppendFile {
 public:
  /// Opens it, made where it is not there; what stands behind the first `keep` bytes is cut off. Errors: io.
  static Result<AppendFile> open(const std::filesystem::path& path, uint64_t keep);
  AppendFile(AppendFile&&) noexcept;
  AppendFile& operator=(AppendFile&&) noexcept;
  ~AppendFile();

  /// Errors: io.
  Result<void> append(std::string_view bytes);

 private:
  struct Handle;
  explicit AppendFile(std::unique_ptr<Handle> handle);
  std::unique_ptr<Handle> handle_;
};

}  // namespace fibula
