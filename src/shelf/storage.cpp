#include "shelf/storage.hpp"

#include "shelf/index.hpp"
#include "shelf/store.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <unistd.h>
#include <cerrno>
#include <set>

namespace fibula {
namespace {

Error io(const fs::path& path, std::string_view doing, const std::error_code& error) {
  return {.code = Code::io,
          .what = fmt::format("{}: {}", doing, error.message()),
          .file = path.string(),
          .hint = "check the permissions of the shelf's folder and the space left on the disk"};
}

std::error_code last_error() {
  return {errno, std::generic_category()};
}

/// Locked by the process that fills a folder; free when that process is gone.
constexpr const char* alive_name = ".alive";

bool is_abandoned(const fs::path& folder) {
  const int fd = ::open((folder / alive_name).c_str(), O_RDWR | O_CLOEXEC);
  if (fd < 0) return true;
  const bool free = ::flock(fd, LOCK_EX | LOCK_NB) == 0;
  ::close(fd);
  return free;
}

/// Under the shelf's lock, so that no folder is met between being made and being locked.
void sweep(const fs::path& shelf) {
  std::error_code error;
  std::vector<fs::path> abandoned;
  for (const auto& entry : fs::directory_iterator(shelf, error)) {
    const auto name = entry.path().filename().string();
    // These are written under the shelf's lock, which is ours now: whoever began them was killed.
    const bool leaving = name.starts_with(".leaving-") || name.starts_with("shelf.index.");
    if (leaving || (name.starts_with(".arriving-") && is_abandoned(entry.path()))) abandoned.push_back(entry.path());
  }
  for (const auto& folder : abandoned) fs::remove_all(folder, error);
  if (!abandoned.empty()) forget_orphans(shelf);
}

/// In one step, so that there is an entry at every moment.
Result<void> exchange(const fs::path& fresh, const fs::path& old) {
  if (::renameat2(AT_FDCWD, fresh.c_str(), AT_FDCWD, old.c_str(), RENAME_EXCHANGE) == 0) return {};
  if (errno != EINVAL && errno != ENOSYS) return fail(io(old, "cannot be replaced", last_error()));
  return fail({.code = Code::io,
               .what = "cannot be replaced in one step on this file system",
               .file = old.string(),
               .hint = "drop the version first, then take it"});
}

}  // namespace

Result<ShelfLock> ShelfLock::take(const fs::path& shelf) {
  if (auto made = make_folder(shelf); !made) return pass(made);
  const int fd = ::open((shelf / ".lock").c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
  if (fd < 0) return fail(io(shelf, "cannot be written to", last_error()));
  if (::flock(fd, LOCK_EX) == 0) return ShelfLock(fd);
  const auto error = last_error();
  ::close(fd);
  return fail(io(shelf, "cannot be locked", error));
}

ShelfLock::~ShelfLock() {
  if (fd_ >= 0) ::close(fd_);
}

Result<ArrivingEntry> ArrivingEntry::make(const fs::path& shelf) {
  auto lock = ShelfLock::take(shelf);
  if (!lock) return pass(lock);
  sweep(shelf);
  auto folder = TemporaryFolder::make(shelf, ".arriving-");
  if (!folder) return pass(folder);
  const fs::path alive = folder->path() / alive_name;
  const int fd = ::open(alive.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
  if (fd < 0 || ::flock(fd, LOCK_EX) != 0) return fail(io(alive, "cannot be locked", last_error()));
  return ArrivingEntry(shelf, std::move(*folder), fd);
}

ArrivingEntry::ArrivingEntry(ArrivingEntry&& other) noexcept
    : shelf_(std::move(other.shelf_)), folder_(std::move(other.folder_)), shared_(other.shared_), alive_(other.alive_) {
  other.folder_.reset();
  other.shared_ = false;
  other.alive_ = -1;
}

ArrivingEntry::~ArrivingEntry() {
  folder_.reset();
  if (alive_ >= 0) ::close(alive_);
  if (shared_) forget_orphans(shelf_);
}

Result<void> ArrivingEntry::share(const std::vector<Content>& contents) {
  shared_ = true;
  return share_contents(shelf_, path() / "files", contents);
}

Result<void> ArrivingEntry::publish(const Card& card, bool replace) {
  auto lock = ShelfLock::take(shelf_);
  if (!lock) return pass(lock);
  const fs::path target = shelf_ / card.name / card.version;
  if (auto made = make_folder(target.parent_path()); !made) return made;
  std::error_code error;
  const bool there = fs::exists(target, error);
  if (there && !replace) {
    return fail({.code = Code::refused,
                 .what = fmt::format("{} {} is on the shelf already, with other files", card.name, card.version),
                 .file = target.string(),
                 .hint = "take it with --replace, or under another --version"});
  }
  fs::remove(path() / alive_name, error);
  if (there) {
    // What was there leaves with the temporary folder.
    if (auto done = exchange(path(), target); !done) return done;
  } else {
    fs::rename(path(), target, error);
    if (error) return fail(io(target, "cannot be put in place", error));
    folder_->keep();
    shared_ = false;
  }
  refresh_index(shelf_);
  return {};
}

Result<void> remove_entry(const fs::path& shelf, const std::string& name, const std::string& version) {
  auto lock = ShelfLock::take(shelf);
  if (!lock) return pass(lock);
  sweep(shelf);
  {
    auto trash = TemporaryFolder::make(shelf, ".leaving-");
    if (!trash) return pass(trash);
    std::error_code error;
    fs::rename(shelf / name / version, trash->path() / "entry", error);
    if (error) return fail(io(shelf / name / version, "cannot be moved", error));
  }
  forget_orphans(shelf);
  std::error_code not_empty;  // other versions stay
  fs::remove(shelf / name, not_empty);
  refresh_index(shelf);
  return {};
}

Result<void> copy_files(const fs::path& from, const fs::path& to, const std::vector<std::string>& files) {
  const std::set<std::string> copied(files.begin(), files.end());
  for (const auto& file : files) {
    const fs::path target = to / file;
    if (auto made = make_folder(target.parent_path()); !made) return made;
    std::error_code error;
    const fs::path pointee = fs::is_symlink(from / file, error) ? fs::read_symlink(from / file, error) : fs::path();
    // A link to a file that comes along stays a link; one that leads elsewhere becomes the file itself.
    const auto meant = (fs::path(file).parent_path() / pointee).lexically_normal().generic_string();
    if (!pointee.empty() && pointee.is_relative() && copied.contains(meant)) {
      fs::create_symlink(pointee, target, error);
    } else {
      fs::copy_file(from / file, target, error);
    }
    if (error) return fail(io(target, "cannot be copied", error));
  }
  return {};
}

}  // namespace fibula
