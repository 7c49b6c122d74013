#include "shelf/storage.hpp"

#include "shelf/index.hpp"
#include "shelf/store.hpp"

#include <fmt/format.h>
#include <set>

namespace fibula {
namespace {

/// Locked by the process that fills a folder; free when that process is gone.
constexpr const char* alive_name = ".alive";

/// Under the shelf's lock, so that no folder is met between being made and being locked.
void sweep(const fs::path& shelf) {
  std::error_code error;
  std::vector<fs::path> abandoned;
  for (auto entry = fs::directory_iterator(shelf, error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    const fs::path folder = entry->path();
    const auto name = folder.filename().string();
    // These are written under the shelf's lock, which is ours now: whoever began them was killed.
    const bool leaving = name.starts_with(".leaving-") || name.starts_with("shelf.index.");
    if (leaving || (name.starts_with(".arriving-") && !FileLock::is_held(folder / alive_name)))
      abandoned.push_back(folder);
  }
  for (const auto& folder : abandoned) fs::remove_all(folder, error);
  if (!abandoned.empty()) forget_orphans(shelf);
}

/// In one step, so that there is an entry at every moment.
Result<void> replace_entry(const fs::path& fresh, const fs::path& old) {
  const auto error = exchange(fresh, old);
  if (!error) return {};
  if (error != std::errc::function_not_supported) return fail(io_error(old, "cannot be replaced", error));
  return fail({.code = Code::io,
               .what = "cannot be replaced in one step on this file system",
               .file = old.string(),
               .hint = "drop the version first, then take it"});
}

}  // namespace

Result<FileLock> lock_shelf(const fs::path& shelf) {
  if (auto made = make_folder(shelf); !made) return pass(made);
  return FileLock::take(shelf / ".lock");
}

Result<ArrivingEntry> ArrivingEntry::make(const fs::path& shelf) {
  auto lock = lock_shelf(shelf);
  if (!lock) return pass(lock);
  sweep(shelf);
  auto folder = TemporaryFolder::make(shelf, ".arriving-");
  if (!folder) return pass(folder);
  // What comes onto a shelf is for everybody who may read the shelf.
  std::error_code ignored;
  fs::permissions(folder->path(), fs::perms(0755), ignored);
  auto alive = FileLock::take(folder->path() / alive_name);
  if (!alive) return pass(alive);
  return ArrivingEntry(shelf, std::move(*folder), std::move(*alive));
}

ArrivingEntry::ArrivingEntry(ArrivingEntry&& other) noexcept
    : shelf_(std::move(other.shelf_)),
      folder_(std::move(other.folder_)),
      shared_(other.shared_),
      alive_(std::move(other.alive_)) {
  other.folder_.reset();
  other.shared_ = false;
}

ArrivingEntry::~ArrivingEntry() {
  folder_.reset();
  if (shared_) forget_orphans(shelf_);
}

Result<void> ArrivingEntry::share(const DigestList& contents) {
  shared_ = true;
  return share_contents(shelf_, path() / "files", contents);
}

Result<void> ArrivingEntry::publish(const Card& card, bool replace) {
  auto lock = lock_shelf(shelf_);
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
    if (auto done = replace_entry(path(), target); !done) return done;
  } else {
    fs::rename(path(), target, error);
    if (error) return fail(io_error(target, "cannot be put in place", error));
    folder_->keep();
    shared_ = false;
  }
  refresh_index(shelf_);
  return {};
}

Result<void> remove_entry(const fs::path& shelf, const std::string& name, const std::string& version) {
  auto lock = lock_shelf(shelf);
  if (!lock) return pass(lock);
  sweep(shelf);
  {
    auto trash = TemporaryFolder::make(shelf, ".leaving-");
    if (!trash) return pass(trash);
    std::error_code error;
    fs::rename(shelf / name / version, trash->path() / "entry", error);
    if (error) return fail(io_error(shelf / name / version, "cannot be moved", error));
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
    if (error) return fail(io_error(target, "cannot be copied", error));
  }
  return {};
}

}  // namespace fibula
