#include "os/files.hpp"

#include "base/text.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>
#include <algorithm>
#include <cerrno>
#include <cstdlib>
#include <cstring>

namespace fibula {
namespace {

Error io_error(const fs::path& path, std::string_view doing) {
  return {.code = Code::io,
          .what = fmt::format("{}: {}", doing, std::strerror(errno)),
          .file = path.string(),
          .hint = "check the permissions of the folder and the space left on the disk"};
}

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

bool write_all(int fd, std::string_view content) {
  while (!content.empty()) {
    const ssize_t written = ::write(fd, content.data(), content.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) return false;
    content.remove_prefix(static_cast<size_t>(written));
  }
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
  const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
  if (fd < 0) return fail({.code = Code::unreadable, .what = "cannot be read", .file = path.string()});
  std::string content(size, '\0');
  const bool read = read_all(fd, content);
  ::close(fd);
  if (!read) return fail({.code = Code::unreadable, .what = "cannot be read", .file = path.string()});
  return content;
}

Result<void> write_whole(const fs::path& path, std::string_view content, Flush flush) {
  std::string temporary = path.string() + ".XXXXXX";
  const int fd = ::mkostemp(temporary.data(), O_CLOEXEC);
  if (fd < 0) return fail(io_error(path, "cannot be written"));
  const bool written = write_all(fd, content) && ::fchmod(fd, 0644) == 0 && (flush == Flush::later || ::fsync(fd) == 0);
  const bool closed = ::close(fd) == 0;
  if (written && closed && ::rename(temporary.c_str(), path.c_str()) == 0) return {};
  const auto error = io_error(path, "cannot be written");
  ::unlink(temporary.c_str());
  return fail(error);
}

Result<bool> write_if_changed(const fs::path& path, std::string_view content, Flush flush) {
  if (const auto before = read_text(path); before && *before == content) return false;
  if (auto written = write_whole(path, content, flush); !written) return pass(written);
  return true;
}

Result<void> make_folder(const fs::path& path) {
  std::error_code error;
  fs::create_directories(path, error);
  if (!error) return {};
  errno = error.value();
  return fail(io_error(path, "cannot be made"));
}

Result<std::vector<fs::path>> files_below(const fs::path& root, size_t limit) {
  std::error_code error;
  std::vector<fs::path> found;
  auto walk = fs::recursive_directory_iterator(root, error);
  for (; !error && walk != fs::recursive_directory_iterator(); walk.increment(error)) {
    std::error_code gone;
    if (!walk->is_directory(gone) || walk->is_symlink(gone)) found.push_back(walk->path().lexically_relative(root));
    if (found.size() > limit) {
      return fail({.code = Code::limit,
                   .what = fmt::format("holds more than {} files", limit),
                   .file = root.string(),
                   .hint = "name the folder of one library"});
    }
  }
  if (error) {
    const auto code = error == std::errc::no_such_file_or_directory ? Code::absent : Code::unreadable;
    return fail({.code = code, .what = error.message(), .file = root.string()});
  }
  std::sort(found.begin(), found.end());
  return found;
}

std::vector<fs::path> files_directly_in(const fs::path& folder) {
  std::vector<fs::path> found;
  std::error_code error;
  for (auto entry = fs::directory_iterator(folder, error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    std::error_code gone;
    if (!entry->is_directory(gone)) found.push_back(entry->path().filename());
  }
  std::sort(found.begin(), found.end());
  return found;
}

std::vector<fs::path> files_matching(const fs::path& root, std::string_view pattern) {
  const size_t wild = pattern.find_first_of("*?");
  if (wild == std::string_view::npos) {
    std::error_code ignored;
    const fs::path path = root / pattern;
    return fs::is_regular_file(path, ignored) ? std::vector{path} : std::vector<fs::path>{};
  }
  const size_t slash = pattern.rfind('/', wild);
  const fs::path start = slash == std::string_view::npos ? root : root / pattern.substr(0, slash);
  const auto rest = slash == std::string_view::npos ? pattern : pattern.substr(slash + 1);
  const bool deep = rest.find('/') != std::string_view::npos || rest.find("**") != std::string_view::npos;
  std::vector<fs::path> found;
  for (const auto& file : deep ? files_below(start).value_or(std::vector<fs::path>{}) : files_directly_in(start)) {
    if (text::glob_matches(rest, file.generic_string())) found.push_back(start / file);
  }
  return found;
}

fs::path absolute_path(const fs::path& path) {
  const fs::path normal = fs::absolute(path).lexically_normal();
  return normal.has_filename() || normal == normal.root_path() ? normal : normal.parent_path();
}

bool is_inside(const fs::path& folder, const fs::path& path) {
  const auto relative = path.lexically_relative(folder);
  return !relative.empty() && *relative.begin() != "..";
}

std::string shown_from(const fs::path& base, const fs::path& path) {
  return is_inside(base, path) ? path.lexically_relative(base).generic_string() : path.generic_string();
}

std::optional<std::string> environment(const char* name) {
  const char* value = std::getenv(name);
  if (value == nullptr || *value == '\0') return std::nullopt;
  return value;
}

std::optional<fs::path> cache_folder(std::string_view what) {
  if (const auto folder = environment("XDG_CACHE_HOME")) return fs::path(*folder) / "fibula" / what;
  if (const auto home = environment("HOME")) return fs::path(*home) / ".cache" / "fibula" / what;
  return std::nullopt;
}

Result<TemporaryFolder> TemporaryFolder::make(const fs::path& parent, std::string_view prefix) {
  if (auto made = make_folder(parent); !made) return pass(made);
  std::string path = (parent / fmt::format("{}XXXXXX", prefix)).string();
  if (::mkdtemp(path.data()) == nullptr) return fail(io_error(parent, "no folder can be made inside it"));
  ::chmod(path.c_str(), 0755);
  return TemporaryFolder(path);
}

TemporaryFolder::~TemporaryFolder() {
  std::error_code ignored;
  if (!path_.empty()) fs::remove_all(path_, ignored);
}

}  // namespace fibula
