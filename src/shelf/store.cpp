#include "shelf/store.hpp"

#include "os/files.hpp"
#include "os/mapped_file.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <set>

namespace fibula {
namespace {

/// Programs and other files of the same bytes are kept apart: a hard link has one set of permissions.
fs::path place_in_store(const fs::path& shelf, const std::string& digest, bool executable) {
  return shelf / ".store" / digest.substr(0, 2) / (executable ? digest + "-x" : digest);
}

bool same_bytes(const fs::path& a, const fs::path& b) {
  const auto first = MappedFile::open(a), second = MappedFile::open(b);
  return first && second && (*first)->bytes().text() == (*second)->bytes().text();
}

/// Puts the store's copy in the place of the entry's.
bool take_from_store(const fs::path& kept, const fs::path& file) {
  const std::string beside = file.string() + ".shared";
  std::error_code error;
  fs::create_hard_link(kept, beside, error);
  if (error) return false;
  fs::rename(beside, file, error);
  if (!error) return true;
  fs::remove(beside, error);
  return false;
}

class Sharer {
 public:
  Sharer(const fs::path& shelf, const fs::path& files) : shelf_(shelf), files_(files) {}

  Result<void> share(const ListedFile& content) {
    const fs::path file = files_ / content.file;
    const Stamp stamp = stamp_of_link(file);
    if (!stamp.is_file()) return {};
    std::error_code error;
    // What several entries hold is nobody's to write.
    const auto run =
        stamp.executable ? fs::perms::owner_exec | fs::perms::group_exec | fs::perms::others_exec : fs::perms::none;
    fs::permissions(file, fs::perms::owner_read | fs::perms::group_read | fs::perms::others_read | run, error);
    const fs::path kept = place_in_store(shelf_, content.sha256, stamp.executable);
    if (auto made = make_shelf_folder(kept.parent_path()); !made) return made;
    fs::create_hard_link(file, kept, error);
    if (error != std::errc::file_exists) return {};
    if (same_bytes(kept, file)) {
      take_from_store(kept, file);
    } else {
      // The store's copy was damaged, and this one was just read: it takes its place.
      take_from_store(file, kept);
    }
    return {};
  }

 private:
  Result<void> make_shelf_folder(const fs::path& folder) {
    if (!made_.insert(folder).second) return {};
    return make_folder(folder);
  }

  const fs::path& shelf_;
  const fs::path& files_;
  std::set<fs::path> made_;
};

}  // namespace

Result<void> share_contents(const fs::path& shelf, const fs::path& files, const DigestList& contents) {
  Sharer sharer(shelf, files);
  for (const auto& content : contents) {
    if (auto shared = sharer.share(content); !shared) return shared;
  }
  return {};
}

void forget_orphans(const fs::path& shelf) {
  std::error_code error;
  std::vector<fs::path> orphans;
  const fs::path store = shelf / ".store";
  for (const auto& file : files_below(store).value_or(std::vector<fs::path>())) {
    if (fs::hard_link_count(store / file, error) == 1) orphans.push_back(store / file);
  }
  for (const auto& orphan : orphans) {
    fs::remove(orphan, error);
    fs::remove(orphan.parent_path(), error);  // when it was the last one there
  }
}

}  // namespace fibula
