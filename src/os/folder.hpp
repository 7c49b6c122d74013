/// A folder that Fibula writes into, and never outside of it.
#pragma once

#include "base/inside_path.hpp"
#include "os/files.hpp"

#include <memory>

namespace fibula {

/// An open folder. What is made, changed or removed through it lies below it whatever the disk holds: a link on the way
/// is an error and not followed, and a link at the end is replaced or removed itself, never what it leads to. The
/// folder's own path may go through links: whoever named it chose them.
///
/// Errors of all calls: io; refused (a part of the path is a link, or no path inside).
class Folder {
 public:
  /// A folder that is there. Errors: also absent.
  static Result<Folder> open(const fs::path& path);
  /// Made with its parents where it is not there.
  static Result<Folder> make(const fs::path& path);

  /// Made below a folder that is there, through no link.
  static Result<Folder> make_in(const fs::path& root, std::string_view inside);

  const fs::path& path() const { return path_; }

  /// Makes a folder and those above it; of nothing, or `.`, this one is meant.
  Result<void> make_folder(std::string_view inside) const;
  /// Writes a file whole or not at all, with the folders above it: beside its place, then renamed.
  Result<void> write(std::string_view inside, std::string_view content, Flush flush = Flush::later) const;
  /// The same, and leaves a file alone that already has this content; true when something was written.
  Result<bool> write_if_changed(std::string_view inside, std::string_view content, Flush flush = Flush::later) const;
  /// Puts a copy of a file in place, with the folders above it, with the file's time and permissions; writable by its
  /// owner. A copy shares its blocks with the file where the file system can do that (FICLONE).
  Result<void> copy_in(const fs::path& from, std::string_view inside) const;
  /// Puts something from inside this folder elsewhere inside it, over a file that is there.
  Result<void> rename(std::string_view from, std::string_view to) const;
  /// The same for two things that are there, in one step. Errors: also unsupported (this file system has no such step).
  Result<void> exchange(std::string_view one, std::string_view other) const;
  /// Gives a file a second name, with the folders above it; false where that name is taken, or the file system has no
  /// such names.
  Result<bool> add_name(std::string_view file, std::string_view name) const;
  /// Makes a symbolic link; where it leads is the caller's to judge.
  Result<void> link(std::string_view inside, const fs::path& target) const;
  /// Nobody but its owner may look into the folder itself, from now on.
  Result<void> keep_to_owner() const;
  /// Leaves everybody to read a file, and nobody to write it; who may run it stays.
  void protect(std::string_view inside) const;
  /// Removes a file, a link, or an empty folder. What is not there is no error; false when nothing was removed.
  Result<bool> remove(std::string_view inside) const;
  /// Removes something with everything in it. What is not there is no error.
  Result<void> remove_tree(std::string_view inside) const;
  /// Whether a regular file, no link, is there.
  bool has_file(std::string_view inside) const;

 private:
  struct Handle;
  Folder(fs::path path, std::shared_ptr<const Handle> handle) : path_(std::move(path)), handle_(std::move(handle)) {}
  Error about(std::string_view inside, std::string_view doing, int number) const;

  fs::path path_;
  std::shared_ptr<const Handle> handle_;
};

/// `Folder::open` and one call: for those who write one file.
Result<void> write_in(const fs::path& folder, std::string_view inside, std::string_view content, Flush flush);
Result<bool> write_if_changed_in(const fs::path& folder, std::string_view inside, std::string_view content,
                                 Flush flush = Flush::later);

Result<void> remove_tree_in(const fs::path& folder, std::string_view inside);

/// Where a path lies below a folder, as `Folder` takes it; empty where it does not, or is the folder itself.
std::string inside_of(const Folder& folder, const fs::path& path);

}  // namespace fibula
