#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <memory>
#include <system_error>

namespace fibula {

/// A file that was not there before, being written; links in its place are not followed.
class NewFile {
 public:
  /// Errors as the system gives them: file_exists, not_a_directory, no_space_on_device, …
  static std::error_code make(const std::filesystem::path& path, bool executable, std::unique_ptr<NewFile>& into);
  ~NewFile();

  std::error_code write(const void* data, size_t size, int64_t offset);
  /// What was held back is written now. Call it before the file counts as written.
  std::error_code close();

 private:
  struct Handle;
  explicit NewFile(std::unique_ptr<Handle> handle);
  std::unique_ptr<Handle> handle_;
};

}  // namespace fibula
