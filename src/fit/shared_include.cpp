#include "fit/shared_include.hpp"

#include "headers/header_folders.hpp"
#include "os/digest_list.hpp"
#include "os/file_digest.hpp"
#include "os/folder.hpp"

#include <map>

namespace fibula {
namespace {

/// Beside the folder: what was put into it, so that nothing else is ever taken out of it.
std::string record_of(const SharedHeaders& shared) {
  return shared.folder.filename().string() + ".sha256";
}

/// What is in the folder as the record says, and is wanted no more. What somebody else put there stays.
Result<void> remove_stale(const SharedHeaders& shared, const Folder& folder, const DigestList& before) {
  for (const auto& [file, sha256] : before) {
    if (shared.headers.contains(file) || !folder.has_file(file)) continue;
    const auto now = sha256_of_file(shared.folder / file);
    if (!now || *now != sha256) continue;
    if (auto removed = folder.remove(file); !removed) return pass(removed);
  }
  return {};
}

}  // namespace

std::map<std::string, fs::path> headers_side_by_side(const std::vector<const Card*>& cards) {
  std::map<std::string, fs::path> headers;
  for (const Card* card : cards) {
    const auto directories = card->include_directories_for();
    for (const auto& header : card->public_headers) {
      if (auto name = included_as(header, directories); !name.empty())
        headers.emplace(std::move(name), card->root / header);
    }
  }
  return headers;
}

Result<void> write_shared_headers(const SharedHeaders& shared, const fs::path& root) {
  const auto above = Folder::make_in(root, shown_from(root, shared.folder.parent_path()));
  if (!above) return fail(above.error());
  const std::string name = shared.folder.filename().string();
  if (auto made = above->make_folder(name); !made) return made;
  const auto folder = Folder::make_in(above->path(), name);
  if (!folder) return fail(folder.error());
  // A record that was damaged only leaves files behind.
  const auto before = read_digest_list(above->path() / record_of(shared), "").value_or(DigestList());
  if (auto removed = remove_stale(shared, *folder, before); !removed) return removed;
  DigestList now;
  for (const auto& [file, header] : shared.headers) {
    auto digest = sha256_of_file(header);
    if (!digest) return pass(digest);
    now.push_back({file, std::move(*digest)});
  }
  if (auto noted = above->write_if_changed(record_of(shared), to_text(now)); !noted) return pass(noted);
  for (const auto& [file, header] : shared.headers) {
    if (folder->has_file(file) && has_same_content(shared.folder / file, header)) continue;
    // A copy: compilers take the place that a symbolic link leads to for the header's own.
    if (auto placed = folder->copy_in(header, file); !placed) return placed;
  }
  return {};
}

}  // namespace fibula
