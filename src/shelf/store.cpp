#include "shelf/store.hpp"

#include "os/folder.hpp"
#include "os/mapped_file.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <set>

namespace fibula {
namespace {

/// Programs and other files of the same bytes are kept apart: a hard link has one set of permissions.
std::string place_in_store(const std::string& digest, bool executable) {
  return fmt::format(".store/{}/{}{}", digest.substr(0, 2), digest, executable ? "-x" : "");
}

bool same_bytes(const fs::path& a, const fs::path& b) {
  const auto first = MappedFile::open(a), second = MappedFile::open(b);
  return first && second && (*first)->bytes().text() == (*second)->bytes().text();
}

/// Puts a second name of one file in the place of another.
Result<void> put_in_place_of(const Folder& shelf, const std::string& file, const std::string& other) {
  const std::string beside = other + ".shared";
  const auto named = shelf.add_name(file, beside);
  if (!named) return fail(named.error());
  return *named ? shelf.rename(beside, other) : Result<void>();
}

Result<void> share_file(const Folder& shelf, const std::string& file, const std::string& sha256) {
  const Stamp stamp = stamp_of_link(shelf.path() / file);
  if (!stamp.is_file()) return {};
  shelf.protect(file);  // what several entries hold is nobody's to write
  const std::string kept = place_in_store(sha256, stamp.executable);
  const auto added = shelf.add_name(file, kept);
  if (!added) return fail(added.error());
  if (*added || !shelf.has_file(kept)) return {};
  // Where the store's copy was damaged, this one, which was just read, takes its place.
  const bool same = same_bytes(shelf.path() / kept, shelf.path() / file);
  return same ? put_in_place_of(shelf, kept, file) : put_in_place_of(shelf, file, kept);
}

}  // namespace

Result<void> share_contents(const fs::path& shelf, const fs::path& files, const DigestList& contents) {
  const auto folder = Folder::open(shelf);
  if (!folder) return fail(folder.error());
  const std::string above = inside_of(*folder, files) + "/";
  for (const auto& [file, sha256] : contents) {
    if (auto shared = share_file(*folder, above + file, sha256); !shared) return shared;
  }
  return {};
}

void forget_orphans(const fs::path& shelf) {
  const fs::path place = shelf / ".store";
  if (!stamp_of_link(place).is_folder()) return;
  const auto store = Folder::open(place);
  if (!store) return;
  std::error_code error;
  std::vector<fs::path> orphans;
  for (auto& file : files_below(place).value_or(std::vector<fs::path>())) {
    if (fs::hard_link_count(place / file, error) == 1) orphans.push_back(std::move(file));
  }
  for (const auto& orphan : orphans) {
    (void)store->remove(orphan.generic_string());
    (void)store->remove(orphan.parent_path().generic_string());  // when it was the last one there
  }
}

}  // namespace fibula
