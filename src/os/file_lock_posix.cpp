#include "os/file_lock.hpp"
#include "os/files.hpp"
#include "os/posix.hpp"

#include <fcntl.h>
#include <sys/file.h>

namespace fibula {

struct FileLock::Handle {
  posix::Descriptor file;
};

FileLock::FileLock(std::unique_ptr<Handle> handle) : handle_(std::move(handle)) {}
FileLock::FileLock(FileLock&&) noexcept = default;
FileLock& FileLock::operator=(FileLock&&) noexcept = default;
FileLock::~FileLock() = default;

Result<FileLock> FileLock::take(const fs::path& file) {
  posix::Descriptor opened(::open(file.c_str(), O_RDWR | O_CREAT | O_NOFOLLOW | O_CLOEXEC, 0644));
  if (!opened) return fail(io_error(file, "cannot be written", errno));
  while (::flock(opened.get(), LOCK_EX) != 0) {
    if (errno != EINTR) return fail(io_error(file, "cannot be locked", errno));
  }
  return FileLock(std::make_unique<Handle>(Handle{std::move(opened)}));
}

Result<std::optional<FileLock>> FileLock::try_take(const fs::path& file) {
  posix::Descriptor opened(::open(file.c_str(), O_RDWR | O_CREAT | O_NOFOLLOW | O_CLOEXEC, 0644));
  if (!opened) return fail(io_error(file, "cannot be written", errno));
  if (::flock(opened.get(), LOCK_EX | LOCK_NB) == 0)
    return FileLock(std::make_unique<Handle>(Handle{std::move(opened)}));
  if (errno == EWOULDBLOCK || errno == EINTR) return std::optional<FileLock>();
  return fail(io_error(file, "cannot be locked", errno));
}

bool FileLock::is_held(const fs::path& file) {
  const posix::Descriptor opened(::open(file.c_str(), O_RDWR | O_NOFOLLOW | O_CLOEXEC));
  return opened && ::flock(opened.get(), LOCK_EX | LOCK_NB) != 0;
}

}  // namespace fibula
