#include "base/digest.hpp"
#include "os/folder.hpp"
#include "os/part_file.hpp"
#include "os/posix.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <algorithm>

namespace fibula {

struct PartFile::Handle {
  posix::Descriptor file;
};

PartFile::PartFile(const fs::path& folder, const std::string& url)
    : file_(folder / fmt::format("{:016x}.part", quick_digest(url))),
      validator_(file_.string() + ".validator"),
      handle_(std::make_unique<Handle>()) {}

PartFile::~PartFile() = default;

Result<void> PartFile::open() {
  if (auto made = make_folder(file_.parent_path()); !made) return made;
  struct stat held {
  }, named{};
  do {
    handle_->file = posix::Descriptor(::open(file_.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644));
    const int fd = handle_->file.get();
    if (fd < 0 || ::flock(fd, LOCK_EX) != 0 || ::fstat(fd, &held) != 0) return fail(write_error());
  } while (::stat(file_.c_str(), &named) != 0 || named.st_ino != held.st_ino);
  size_ = static_cast<uint64_t>(std::max<off_t>(::lseek(handle_->file.get(), 0, SEEK_END), 0));
  return {};
}

Result<fs::path> PartFile::release() const {
  fs::path done = fmt::format("{}.{}", file_.string(), ::getpid());
  if (::rename(file_.c_str(), done.c_str()) != 0) return fail(write_error());
  std::error_code ignored;
  fs::remove(validator_, ignored);
  return done;
}

Result<void> PartFile::restart() {
  const int fd = handle_->file.get();
  if (::ftruncate(fd, 0) != 0 || ::lseek(fd, 0, SEEK_SET) != 0) return fail(write_error());
  size_ = 0;
  return {};
}

bool PartFile::append(const char* data, size_t count) {
  if (!posix::write_all(handle_->file.get(), {data, count})) return false;
  size_ += count;
  return true;
}

void PartFile::remove() const {
  std::error_code ignored;
  fs::remove(file_, ignored);
  fs::remove(validator_, ignored);
}

Error PartFile::write_error() const {
  Error error = io_error(file_, "cannot be written", errno);
  error.hint = "make room on the disk, or set XDG_CACHE_HOME to another folder";
  return error;
}

std::string PartFile::validator() const {
  return read_text(validator_, 4096).value_or("");
}

void PartFile::set_validator(const std::string& text) const {
  (void)write_if_changed_in(validator_.parent_path(), validator_.filename().string(), text);
}

}  // namespace fibula
