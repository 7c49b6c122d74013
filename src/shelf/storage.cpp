#include "shelf/storage.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <unistd.h>

namespace fibula {
namespace {

/// Holds the shelf's lock while entries are moved; the kernel releases it if this process dies.
class Lock {
 public:
  explicit Lock(const fs::path& shelf) : fd_(::open((shelf / ".lock").c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644)) {
    held_ = fd_ >= 0 && ::flock(fd_, LOCK_EX) == 0;
  }
  Lock(const Lock&) = delete;
  Lock& operator=(const Lock&) = delete;
  ~Lock() {
    if (fd_ >= 0) ::close(fd_);
  }
  bool held() const { return held_; }

 private:
  int fd_;
  bool held_ = false;
};

Error io(const fs::path& path, std::string_view doing, const std::error_code& error) {
  return {.code = Code::io,
          .what = fmt::format("{}: {}", doing, error.message()),
          .file = path.string(),
          .hint = "check the permissions of the shelf's folder and the space left on the disk"};
}

/// Moves an entry out of sight, so that its place is free at once; the slow removal comes after.
Result<bool> move_aside(const fs::path& shelf, const fs::path& entry) {
  auto trash = TemporaryFolder::make(shelf, ".leaving-");
  if (!trash) return pass(trash);
  std::error_code error;
  fs::rename(entry, trash->path() / "entry", error);
  if (error) return fail(io(entry, "cannot be moved", error));
  return true;
}

}  // namespace

Result<bool> publish_entry(const fs::path& shelf, TemporaryFolder& entry, const Card& card, bool replace) {
  const Lock lock(shelf);
  if (!lock.held()) return fail({.code = Code::io, .what = "the shelf cannot be locked", .file = shelf.string()});
  const fs::path target = shelf / card.name / card.version;
  if (auto made = make_folder(target.parent_path()); !made) return made;
  std::error_code error;
  if (fs::exists(target, error)) {
    if (!replace) {
      return fail({.code = Code::refused,
                   .what = fmt::format("{} {} is on the shelf already, with other files", card.name, card.version),
                   .file = target.string(),
                   .hint = "take it with --replace, or under another --version"});
    }
    if (auto moved = move_aside(shelf, target); !moved) return moved;
  }
  fs::rename(entry.path(), target, error);
  if (error) return fail(io(target, "cannot be put in place", error));
  entry.keep();
  return true;
}

Result<bool> remove_entry(const fs::path& shelf, const std::string& name, const std::string& version) {
  const Lock lock(shelf);
  if (!lock.held()) return fail({.code = Code::io, .what = "the shelf cannot be locked", .file = shelf.string()});
  if (auto moved = move_aside(shelf, shelf / name / version); !moved) return moved;
  std::error_code not_empty;  // other versions stay
  fs::remove(shelf / name, not_empty);
  return true;
}

Result<bool> copy_files(const fs::path& from, const fs::path& to, const std::vector<std::string>& files) {
  for (const auto& file : files) {
    const fs::path target = to / file;
    if (auto made = make_folder(target.parent_path()); !made) return made;
    std::error_code error;
    const bool link = fs::is_symlink(from / file, error);
    const fs::path pointee = link ? fs::read_symlink(from / file, error) : fs::path();
    // A link to a neighbour stays a link; one that leads elsewhere becomes the file itself.
    const bool neighbour =
        link && pointee.has_filename() && !pointee.has_parent_path() && fs::exists(from / file, error);
    if (neighbour) {
      fs::create_symlink(pointee, target, error);
    } else {
      fs::copy_file(from / file, target, error);
    }
    if (error) return fail(io(target, "cannot be copied", error));
  }
  return true;
}

}  // namespace fibula
