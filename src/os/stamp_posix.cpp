#include "os/near_stamps.hpp"
#include "os/posix.hpp"
#include "os/stamp.hpp"

#include <fcntl.h>

#include <sys/stat.h>
#include <ctime>

namespace fibula {
namespace {

int64_t nanoseconds(const timespec& time) {
  return static_cast<int64_t>(time.tv_sec) * 1'000'000'000 + time.tv_nsec;
}

Stamp stamp_from(const struct stat& info) {
  return {.kind = S_ISREG(info.st_mode)   ? Stamp::Kind::file
                  : S_ISDIR(info.st_mode) ? Stamp::Kind::folder
                                          : Stamp::Kind::other,
          .executable = (info.st_mode & 0111) != 0,
          .device = info.st_dev,
          .number = info.st_ino,
          .size = static_cast<uint64_t>(info.st_size),
          .time = nanoseconds(info.st_mtim),
          .changed = nanoseconds(info.st_ctim)};
}

}  // namespace

Stamp stamp_at(const char* path) {
  struct stat info {};
  return ::stat(path, &info) == 0 ? stamp_from(info) : Stamp();
}

Stamp stamp_of(const std::filesystem::path& path) {
  return stamp_at(path.c_str());
}

Stamp stamp_of_link(const std::filesystem::path& path) {
  struct stat info {};
  return ::lstat(path.c_str(), &info) == 0 ? stamp_from(info) : Stamp();
}

struct NearStamps::Handle {
  posix::Descriptor folder;
};

NearStamps::NearStamps() : handle_(std::make_unique<Handle>()) {}
NearStamps::~NearStamps() = default;

Stamp NearStamps::at(const std::string& path) {
  const size_t slash = path.rfind('/');
  if (slash == std::string::npos || slash == 0) return stamp_at(path.c_str());
  if (path.compare(0, slash, folder_) != 0) {
    folder_.assign(path, 0, slash);
    handle_->folder.close();
    return stamp_at(path.c_str());
  }
  if (!handle_->folder) handle_->folder = posix::Descriptor(::open(folder_.c_str(), O_PATH | O_DIRECTORY | O_CLOEXEC));
  struct stat info {};
  if (!handle_->folder) return stamp_at(path.c_str());
  return ::fstatat(handle_->folder.get(), path.c_str() + slash + 1, &info, 0) == 0 ? stamp_from(info) : Stamp();
}

int64_t stamp_clock() {
  timespec now{};
  ::clock_gettime(CLOCK_REALTIME_COARSE, &now);
  return nanoseconds(now);
}

void wait_for_tick_after(int64_t time) {
  for (int64_t left = time + stamp_tick - stamp_clock(); left > 0 && left <= stamp_tick;
       left = time + stamp_tick - stamp_clock()) {
    const timespec nap{.tv_sec = 0, .tv_nsec = left};
    ::nanosleep(&nap, nullptr);
  }
}

}  // namespace fibula
