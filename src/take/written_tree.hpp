/// A folder that is filled by somebody else's instructions. Links are made last, so nothing is ever written through
/// one.
#pragma once

#include <fibula/result.hpp>

#include "os/new_file.hpp"
#include "take/entry_names.hpp"

#include <filesystem>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// A file that is being written; closed when it goes away.
class WrittenFile {
 public:
  WrittenFile(std::unique_ptr<NewFile> file, std::filesystem::path path)
      : file_(std::move(file)), path_(std::move(path)) {}

  /// Errors: io.
  Result<void> write(const void* data, size_t size, int64_t offset);
  Result<void> close();

 private:
  std::unique_ptr<NewFile> file_;
  std::filesystem::path path_;
};

class WrittenTree {
 public:
  explicit WrittenTree(std::filesystem::path root) : root_(std::move(root)) {}

  // Names are safe ones. Errors: refused (a name twice; a link that leads out), malformed (a file in the place of a
  // folder), io.
  Result<void> folder(const std::string& name);
  Result<WrittenFile> file(const std::string& name, bool executable);
  /// A symbolic link, made by `finish`.
  Result<void> link(const std::string& name, std::string target, bool rooted);
  /// A second name for a file that was written before.
  Result<void> twin(const std::string& name, const std::string& of);
  /// Makes the links, and looks where each of them leads.
  Result<void> finish();

 private:
  struct Link {
    std::string name;
    std::string target;  ///< as the link will hold it
  };
  Result<void> folder_of(const std::string& name);

  std::filesystem::path root_;
  NameBook names_;
  std::set<std::string> folders_;
  std::vector<Link> links_;
};

}  // namespace fibula
