#include "shelf/storage.hpp"

#include "os/folder.hpp"
#include "os/stamp.hpp"
#include "shelf/built.hpp"
#include "shelf/index.hpp"
#include "shelf/store.hpp"

#include <fmt/format.h>
#include <set>

namespace fibula {
namespace {

/// Locked by the process that fills a folder; free when that process is gone.
constexpr const char* alive_name = ".alive";
constexpr const char* leaving_folder = ".leaving";

/// Under the shelf's lock, so that no folder is met between being made and being locked.
void sweep(const fs::path& shelf) {
  const auto folder = Folder::open(shelf);
  if (!folder) return;
  std::vector<std::string> abandoned;
  for (const char* place : {arriving_folder, leaving_folder}) {
    std::error_code error;
    for (auto entry = fs::directory_iterator(shelf / place, error); !error && entry != fs::directory_iterator();
         entry.increment(error)) {
      // Only an arriving entry is written without the shelf's lock, which is ours now: who began the rest was killed.
      if (place == arriving_folder && FileLock::is_held(entry->path() / alive_name)) continue;
      abandoned.push_back(fmt::format("{}/{}", place, entry->path().filename().string()));
    }
  }
  for (const auto& name : abandoned) (void)folder->remove_tree(name);
  if (!abandoned.empty()) forget_orphans(shelf);
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
  auto folder = TemporaryFolder::make(shelf / arriving_folder, "entry-");
  if (!folder) return pass(folder);
  // What comes onto a shelf is for everybody who may read the shelf.
  folder->show_to_all();
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
  const auto shelf = Folder::open(shelf_);
  if (!shelf) return fail(shelf.error());
  if (auto made = shelf->make_folder(card.name); !made) return made;
  const fs::path target = shelf_ / card.name / card.version;
  const Stamp stamp = stamp_of_link(target);
  const bool there = stamp.there();
  if (there && !stamp.is_folder()) {
    return fail({.code = Code::refused,
                 .what = "is in the way: an entry of a shelf is a folder",
                 .file = target.string(),
                 .hint = "move it away"});
  }
  if (there && !replace) {
    return fail(
        {.code = Code::refused,
         .what = fmt::format("{} {} is on the shelf already, with other files", card.name, card.version),
         .file = target.string(),
         .hint = "take it with --add when these are more builds of it, with --replace in its place, or under another "
                 "--version"});
  }
  const std::string arriving = fmt::format("{}/{}", arriving_folder, path().filename().string());
  if (auto removed = shelf->remove(fmt::format("{}/{}", arriving, alive_name)); !removed) return pass(removed);
  const std::string place = fmt::format("{}/{}", card.name, card.version);
  if (there) {
    // In one step, so that there is an entry at every moment. What was there leaves with the temporary folder.
    auto done = shelf->exchange(arriving, place);
    if (!done && done.error().code == Code::unsupported) done.error().hint = "drop the version first, then take it";
    if (!done) return done;
  } else {
    if (auto moved = shelf->rename(arriving, place); !moved) return moved;
    folder_->keep();
    shared_ = false;
  }
  refresh_index(shelf_, card.name);
  return {};
}

Result<void> ArrivingEntry::publish_built(const std::string& place) {
  auto lock = lock_shelf(shelf_);
  if (!lock) return pass(lock);
  const auto shelf = Folder::open(shelf_);
  if (!shelf) return fail(shelf.error());
  if (read_built(shelf_ / place)) return {};
  const std::string arriving = fmt::format("{}/{}", arriving_folder, path().filename().string());
  if (auto removed = shelf->remove(fmt::format("{}/{}", arriving, alive_name)); !removed) return pass(removed);
  // What lies there without being whole was damaged.
  if (auto removed = shelf->remove_tree(place); !removed) return removed;
  if (auto made = shelf->make_folder(place.substr(0, place.rfind('/'))); !made) return made;
  if (auto moved = shelf->rename(arriving, place); !moved) return moved;
  folder_->keep();
  return {};
}

Result<void> remove_entry(const fs::path& shelf, const std::string& name, const std::string& version) {
  auto lock = lock_shelf(shelf);
  if (!lock) return pass(lock);
  sweep(shelf);
  const auto folder = Folder::open(shelf);
  if (!folder) return fail(folder.error());
  {
    auto trash = TemporaryFolder::make(shelf / leaving_folder, "entry-");
    if (!trash) return pass(trash);
    const std::string away = fmt::format("{}/{}/entry", leaving_folder, trash->path().filename().string());
    if (auto moved = folder->rename(fmt::format("{}/{}", name, version), away); !moved) return moved;
  }
  // What was built of it goes with it.
  if (auto removed = folder->remove_tree(fmt::format("{}/{}/{}", built_folder, name, version)); !removed)
    return removed;
  (void)folder->remove(fmt::format("{}/{}", built_folder, name));
  forget_orphans(shelf);
  (void)folder->remove(name);  // where other versions stay, it stays
  refresh_index(shelf, name);
  return {};
}

Result<void> copy_files(const fs::path& from, const fs::path& to, const std::vector<std::string>& files) {
  const auto target = Folder::make(to);
  if (!target) return fail(target.error());
  const std::set<std::string> copied(files.begin(), files.end());
  for (const auto& file : files) {
    std::error_code error;
    const fs::path pointee = fs::is_symlink(from / file, error) ? fs::read_symlink(from / file, error) : fs::path();
    // A link to a file that comes along stays a link; one that leads elsewhere becomes the file itself.
    const auto meant = (fs::path(file).parent_path() / pointee).lexically_normal().generic_string();
    const bool stays = !pointee.empty() && pointee.is_relative() && copied.contains(meant);
    if (auto done = stays ? target->link(file, pointee) : target->copy_in(from / file, file); !done) return done;
  }
  return {};
}

}  // namespace fibula
