#include "os/file_stamp.hpp"

#include <sys/stat.h>

namespace fibula {

std::optional<FileStamp> stamp_of(const std::filesystem::path& path) {
  struct stat status = {};
  if (::stat(path.c_str(), &status) != 0 || !S_ISREG(status.st_mode)) return std::nullopt;
  constexpr int64_t second = 1'000'000'000;
  return FileStamp{status.st_dev, status.st_ino, static_cast<uint64_t>(status.st_size),
                   status.st_mtim.tv_sec * second + status.st_mtim.tv_nsec};
}

}  // namespace fibula
