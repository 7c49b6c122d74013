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
  const auto is_absent = [&] {
    return fail({.code = Code::absent, .what = "No such file or directory", .file = path.string()});
  };
  std::error_code ignored;
  const auto status = fs::status(path, ignored);
  if (!fs::exists(status)) return is_absent();
  if (!fs::is_regular_file(status)) {
    return fail({.code = Code::unreadable, .what = "is not a regular file", .file = path.string()});
  }
  const posix::Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
  // Others can have taken it away since.
  if (!file && errno == ENOENT) return is_absent();
  struct stat state {};
  if (!file || ::fstat(file.get(), &state) != 0)
    return fail({.code = Code::unreadable, .what = "cannot be read", .file = path.string()});
  const auto size = static_cast<uint64_t>(state.st_size);
  if (size > limit) {
    return fail({.code = Code::limit,
                 .what = fmt::format("has {} bytes, at most {} are read as text", size, limit),
                 .file = path.string()});
  }
  std::string content(size, '\0');
  if (!read_all(file.get(), content))
    return fail({.code = Code::unreadable, .what = "cannot be read", .file = path.string()});
  return content;
}

Result<TemporaryFolder> TemporaryFolder::make(const fs::path& parent, std::string_view prefix) {
  if (auto made = make_folder(parent); !made) return pass(made);
  std::string path = (parent / fmt::format("{}XXXXXX", prefix)).string();
  if (::mkdtemp(path.data()) == nullptr) return fail(io_error(parent, "no folder can be made inside it", errno));
  return TemporaryFolder(path);
}

void TemporaryFolder::show_to_all() const {
  ::chmod(path_.c_str(), 0755);
}

}  // namespace fibula
