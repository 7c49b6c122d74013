#include "os/files.hpp"
#include "os/posix.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <cstdio>
#include <cstdlib>

namespace fibula {
namespace {

/// Fills the text; it becomes shorter when the file does while it is read.
bool read_all(int fd, std::string& content) {
  size_t got = 0;
  while (got < content.size()) {
    const ssize_t count = ::read(fd, content.data() + got, content.size() - got);
    if (count < 0 && errno == EINTR) continue;
    if (count < 0) return false;
    if (count == 0) break;
    got += static_cast<size_t>(count);
  }
  content.resize(got);
  return true;
}

}  // namespace

Result<std::string> read_text(const fs::path& path, uint64_t limit) {
  std::error_code ignored;
  const auto status = fs::status(path, ignored);
  if (!fs::exists(status))
    return fail({.code = Code::absent, .what = "No such file or directory", .file = path.string()});
  if (!fs::is_regular_file(status)) {
    return fail({.code = Code::unreadable, .what = "is not a regular file", .file = path.string()});
  }
  const auto size = fs::file_size(path, ignored);
  if (size > limit) {
    return fail({.code = Code::limit,
                 .what = fmt::format("has {} bytes, at most {} are read as text", size, limit),
                 .file = path.string()});
  }
  const posix::Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
  if (!file) return fail({.code = Code::unreadable, .what = "cannot be read", .file = path.string()});
  std::string content(size, '\0');
  if (!read_all(file.get(), content))
    return fail({.code = Code::unreadable, .what = "cannot be read", .file = path.string()});
  return content;
}

Result<void> write_whole(const fs::path& path, std::string_view content, Flush flush) {
  std::string temporary = path.string() + ".XXXXXX";
  posix::Descriptor file(::mkostemp(temporary.data(), O_CLOEXEC));
  if (!file) return fail(io_error(path, "cannot be written", errno));
  const bool written = posix::write_all(file.get(), content) && ::fchmod(file.get(), 0644) == 0 &&
                       (flush == Flush::later || ::fsync(file.get()) == 0) && file.close();
  if (written && ::rename(temporary.c_str(), path.c_str()) == 0) return {};
  const auto error = io_error(path, "cannot be written", errno);
  ::unlink(temporary.c_str());
  return fail(error);
}

std::error_code exchange(const fs::path& one, const fs::path& other) {
  if (::renameat2(AT_FDCWD, one.c_str(), AT_FDCWD, other.c_str(), RENAME_EXCHANGE) == 0) return {};
  return {errno == EINVAL || errno == ENOSYS ? ENOSYS : errno, std::generic_category()};
}

void copy_time(const fs::path& from, const fs::path& to) {
  struct stat info {};
  if (::stat(from.c_str(), &info) != 0) return;
  const timespec times[] = {{0, UTIME_OMIT}, info.st_mtim};
  ::utimensat(AT_FDCWD, to.c_str(), times, 0);
}

Result<TemporaryFolder> TemporaryFolder::make(const fs::path& parent, std::string_view prefix) {
  if (auto made = make_folder(parent); !made) return pass(made);
  std::string path = (parent / fmt::format("{}XXXXXX", prefix)).string();
  if (::mkdtemp(path.data()) == nullptr) return fail(io_error(parent, "no folder can be made inside it", errno));
  return TemporaryFolder(path);
}

}  // namespace fibula
