#include "shelf/store.hpp"

#include "os/files.hpp"
#include "os/mapped_file.hpp"

#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>
#include <cerrno>
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
  if (::link(kept.c_str(), beside.c_str()) != 0) return false;
  if (::rename(beside.c_str(), file.c_str()) == 0) return true;
  ::unlink(beside.c_str());
  return false;
}

class Sharer {
 public:
  Sharer(const fs::path& shelf, const fs::path& files) : shelf_(shelf), files_(files) {}

  Result<void> share(const Content& content) {
    const fs::path file = files_ / content.file;
    struct stat status {};
    if (::lstat(file.c_str(), &status) != 0 || !S_ISREG(status.st_mode)) return {};
    const bool executable = (status.st_mode & 0111) != 0;
    // What several entries hold is nobody's to write.
    ::chmod(file.c_str(), executable ? 0555 : 0444);
    const fs::path kept = place_in_store(shelf_, content.sha256, executable);
    if (auto made = make_shelf_folder(kept.parent_path()); !made) return made;
    if (::link(file.c_str(), kept.c_str()) == 0 || errno != EEXIST) return {};
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

Result<void> share_contents(const fs::path& shelf, const fs::path& files, const std::vector<Content>& contents) {
  Sharer sharer(shelf, files);
  for (const auto& content : contents) {
    if (auto shared = sharer.share(content); !shared) return shared;
  }
  return {};
}

void forget_orphans(const fs::path& shelf) {
  std::error_code error;
  std::vector<fs::path> orphans;
  for (const auto& entry : fs::recursive_directory_iterator(shelf / ".store", error)) {
    if (entry.is_regular_file(error) && entry.hard_link_count(error) == 1) orphans.push_back(entry.path());
  }
  for (const auto& orphan : orphans) {
    fs::remove(orphan, error);
    fs::remove(orphan.parent_path(), error);  // when it was the last one there
  }
}

}  // namespace fibula
