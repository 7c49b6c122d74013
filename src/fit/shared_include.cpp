#include "fit/shared_include.hpp"

#include "headers/header_folders.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"

#include <map>

namespace fibula {
namespace {

/// A hard link, or a copy where the shelf is on another disk. Compilers take the place that a symbolic link leads to
/// for the header's own.
Result<void> place(const fs::path& header, const fs::path& at) {
  if (auto made = make_folder(at.parent_path()); !made) return made;
  std::error_code error;
  fs::create_hard_link(header, at, error);
  if (error) fs::copy_file(header, at, fs::copy_options::overwrite_existing, error);
  if (!error) return {};
  return fail({.code = Code::io, .what = "cannot be put in place: " + error.message(), .file = at.string()});
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

Result<void> write_shared_headers(const SharedHeaders& shared) {
  const fs::path& folder = shared.folder;
  auto wanted = shared.headers;
  std::error_code error;
  for (const auto& file : files_below(folder).value_or(std::vector<fs::path>())) {
    const auto right = wanted.find(file.generic_string());
    if (right != wanted.end() && !fs::is_symlink(folder / file, error) &&
        has_same_content(folder / file, right->second)) {
      wanted.erase(right);
    } else {
      fs::remove(folder / file, error);
    }
  }
  for (const auto& [name, header] : wanted) {
    if (auto placed = place(header, folder / name); !placed) return placed;
  }
  return {};
}

}  // namespace fibula
