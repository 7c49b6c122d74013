#include "os/new_file.hpp"
#include "os/posix.hpp"

#include <fcntl.h>

namespace fibula {
namespace {

std::error_code last_error() {
  return {errno, std::generic_category()};
}

}  // namespace

struct NewFile::Handle {
  posix::Descriptor file;
};

NewFile::NewFile(std::unique_ptr<Handle> handle) : handle_(std::move(handle)) {}
NewFile::~NewFile() = default;

std::error_code NewFile::make(const std::filesystem::path& path, bool executable, std::unique_ptr<NewFile>& into) {
  posix::Descriptor opened(
      ::open(path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, executable ? 0755 : 0644));
  if (!opened) return last_error();
  into.reset(new NewFile(std::make_unique<Handle>(Handle{std::move(opened)})));
  return {};
}

std::error_code NewFile::write(const void* data, size_t size, int64_t offset) {
  const char* from = static_cast<const char*>(data);
  while (size > 0) {
    const ssize_t written = ::pwrite(handle_->file.get(), from, size, offset);
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) return last_error();
    if (written == 0) return std::make_error_code(std::errc::no_space_on_device);
    from += written;
    offset += written;
    size -= static_cast<size_t>(written);
  }
  return {};
}

std::error_code NewFile::close() {
  return handle_->file.close() ? std::error_code() : last_error();
}

}  // namespace fibula
