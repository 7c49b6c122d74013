/// Entries appear on a shelf and leave it whole or not at all: they are made beside it and renamed, under a lock. What
/// a killed process left behind is removed by the next one that writes.
#pragma once

#include "os/file_lock.hpp"
#include "os/files.hpp"
#include "shelf/contents.hpp"

#include <fibula/card.hpp>

#include <optional>

namespace fibula {

/// Waits until nobody else writes to the shelf. Errors: io (the folder cannot be written).
Result<FileLock> lock_shelf(const fs::path& shelf);

/// An entry on its way onto the shelf: a hidden folder beside its place, removed unless it is published.
class ArrivingEntry {
 public:
  /// Also removes what processes that were killed have left. Errors: io.
  static Result<ArrivingEntry> make(const fs::path& shelf);
  ArrivingEntry(ArrivingEntry&& other) noexcept;
  ArrivingEntry& operator=(ArrivingEntry&&) = delete;
  ~ArrivingEntry();

  const fs::path& path() const { return folder_->path(); }
  /// Its files, in `files/`, from now on share their contents with the shelf's other entries. Errors: io.
  Result<void> share(const DigestList& contents);
  /// Puts it on the shelf as `name/version`; with `replace` in the place of an entry that is there. Errors: refused (it
  /// is there and `replace` is not set), io.
  Result<void> publish(const Card& card, bool replace);
  /// Puts it at a place for what was built; what is there already stays, and this goes. Errors: io.
  Result<void> publish_built(const std::string& place);

 private:
  ArrivingEntry(fs::path shelf, TemporaryFolder folder, FileLock alive)
      : shelf_(std::move(shelf)), folder_(std::move(folder)), alive_(std::move(alive)) {}
  fs::path shelf_;
  std::optional<TemporaryFolder> folder_;
  bool shared_ = false;  ///< the store may hold what only this folder uses
  FileLock alive_;       ///< locked for as long as this process lives
};

Result<void> remove_entry(const fs::path& shelf, const std::string& name, const std::string& version);

/// Copies files below `from` to the same places below `to`; links among them stay links. Errors: io, unreadable.
Result<void> copy_files(const fs::path& from, const fs::path& to, const std::vector<std::string>& files);

}  // namespace fibula
