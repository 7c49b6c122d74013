#include "take/written_tree.hpp"

#include "os/files.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>
#include <cerrno>
#include <cstring>

namespace fibula {
namespace {

Error write_error(const fs::path& path, int number) {
  const bool in_the_way = number == EEXIST || number == ENOTDIR || number == EISDIR;
  if (in_the_way) {
    return {.code = Code::malformed,
            .what = fmt::format("holds {} both as a file and as a folder", path.filename().string()),
            .hint = "unpack it yourself, keep the right one, and take the folder"};
  }
  return {.code = Code::io,
          .what = fmt::format("cannot be written: {}", std::strerror(number)),
          .file = path.string(),
          .hint = number == ENOSPC || number == EDQUOT || number == EFBIG
                      ? "make room on the disk, or put the shelf elsewhere with --shelf; nothing was changed"
                      : "check the permissions of the folder"};
}

}  // namespace

WrittenFile::WrittenFile(WrittenFile&& other) noexcept : fd_(other.fd_), path_(std::move(other.path_)) {
  other.fd_ = -1;
}

WrittenFile::~WrittenFile() {
  if (fd_ >= 0) ::close(fd_);
}

Result<void> WrittenFile::write(const void* data, size_t size, int64_t offset) {
  const char* from = static_cast<const char*>(data);
  while (size > 0) {
    const ssize_t written = ::pwrite(fd_, from, size, offset);
    if (written < 0 && errno == EINTR) continue;
    if (written <= 0) return fail(write_error(path_, written < 0 ? errno : ENOSPC));
    from += written;
    offset += written;
    size -= static_cast<size_t>(written);
  }
  return {};
}

Result<void> WrittenFile::close() {
  const int closed = ::close(fd_);
  const int number = errno;
  fd_ = -1;
  if (closed != 0) return fail(write_error(path_, number));
  return {};
}

Result<void> WrittenTree::folder(const std::string& name) {
  if (name.empty() || folders_.contains(name)) return {};
  if (auto above = folder_of(name); !above) return above;
  const fs::path path = root_ / name;
  struct stat there {};
  if (::mkdir(path.c_str(), 0755) != 0) {
    const int number = errno;
    if (number != EEXIST || ::lstat(path.c_str(), &there) != 0 || !S_ISDIR(there.st_mode))
      return fail(write_error(path, number));
  }
  folders_.insert(name);
  return {};
}

Result<void> WrittenTree::folder_of(const std::string& name) {
  const size_t slash = name.rfind('/');
  return slash == std::string::npos ? Result<void>() : folder(name.substr(0, slash));
}

Result<WrittenFile> WrittenTree::file(const std::string& name, bool executable) {
  if (auto entered = names_.enter(name); !entered) return pass(entered);
  if (auto above = folder_of(name); !above) return pass(above);
  const fs::path path = root_ / name;
  const int fd = ::open(path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, executable ? 0755 : 0644);
  if (fd < 0) return fail(write_error(path, errno));
  return WrittenFile(fd, path);
}

Result<void> WrittenTree::link(const std::string& name, std::string target, bool rooted) {
  if (auto entered = names_.enter(name); !entered) return entered;
  auto leads_to = safe_target(name, target, rooted);
  if (!leads_to) return pass(leads_to);
  if (target.starts_with('/')) {
    const fs::path from = fs::path("/" + name).parent_path();
    target = fs::path("/" + *leads_to).lexically_relative(from).generic_string();
  }
  links_.push_back({name, std::move(target)});
  return {};
}

Result<void> WrittenTree::twin(const std::string& name, const std::string& of) {
  if (auto entered = names_.enter(name); !entered) return entered;
  if (auto above = folder_of(name); !above) return above;
  if (::link((root_ / of).c_str(), (root_ / name).c_str()) == 0) return {};
  if (errno == ENOENT) {
    return fail({.code = Code::malformed,
                 .what = fmt::format("holds {} as a second name of {}, which it does not hold", name, of),
                 .hint = "fetch it again"});
  }
  return fail(write_error(root_ / name, errno));
}

Result<void> WrittenTree::finish() {
  for (const auto& [name, target] : links_) {
    if (auto above = folder_of(name); !above) return above;
    if (::symlink(target.c_str(), (root_ / name).c_str()) != 0) return fail(write_error(root_ / name, errno));
  }
  // One link alone stays inside; several in a row may not.
  std::error_code error;
  const fs::path root = fs::canonical(root_, error);
  for (const auto& [name, target] : links_) {
    // From the target: a link that leads to nothing would pass for a file of its own name.
    const fs::path real = fs::weakly_canonical((root_ / name).parent_path() / target, error);
    if (!error && is_inside(root, real)) continue;
    return fail({.code = Code::refused,
                 .what = fmt::format("holds the link {} to {}, which leads out of its folder", name, target),
                 .hint = "unpack it yourself, remove the link, and take the folder"});
  }
  return {};
}

}  // namespace fibula
