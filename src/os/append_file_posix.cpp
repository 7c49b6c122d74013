#include "os/append_file.hpp"
#include "os/files.hpp"
#include "os/posix.hpp"

#include <fcntl.h>

namespace fibula {

struct AppendFile::Handle {
  posix::Descriptor file;
  fs::path path;
};

AppendFile::AppendFile(std::unique_ptr<Handle> handle) : handle_(std::move(handle)) {}
AppendFile::AppendFile(AppendFile&&) noexcept = default;
AppendFile& AppendFile::operator=(AppendFile&&) noexcept = default;
AppendFile::~AppendFile() = default;

Result<AppendFile> AppendFile::open(const fs::path& path, uint64_t keep) {
  posix::Descriptor file(::open(path.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_NOFOLLOW | O_CLOEXEC, 0644));
  if (!file || ::ftruncate(file.get(), static_cast<off_t>(keep)) != 0)
    return fail(io_error(path, "cannot be written", errno));
  return AppendFile(std::make_unique<Handle>(Handle{std::move(file), path}));
}

Result<void> AppendFile::append(std::string_view bytes) {
  if (posix::write_all(handle_->file.get(), bytes)) return {};
  return fail(io_error(handle_->path, "cannot be written", errno));
}

}  // namespace fibula
