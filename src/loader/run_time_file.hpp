/// What a loader reads of a file, kept when the file itself is closed again: a system's libraries are asked for
/// thousands of times.
#pragma once

#include "binary/image.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"

#include <map>
#include <memory>
#include <set>
#include <string>
#include <unordered_map>
#include <vector>

namespace fibula {

struct RunTimeFile {
  fs::path path;
  Target target;
  ImageType type = ImageType::other;
  std::string soname;
  std::string interpreter;
  std::vector<Need> needs;
  std::vector<std::string> rpath;
  std::vector<std::string> runpath;
  std::set<std::string, std::less<>> versions;  ///< that it defines
  bool only_run_paths = false;
  // Of Windows files:
  std::set<std::string, std::less<>> exports;
  std::map<std::string, std::string, std::less<>> forwards;  ///< an export to `OTHER.name`
  std::map<std::string, std::vector<std::string>> imports;   ///< names by DLL

  bool is_program() const { return type == ImageType::program || type == ImageType::pie_program; }
};

/// What lies at a path.
struct Looked {
  enum class There { nothing, file, unloadable } there = There::nothing;
  std::shared_ptr<const RunTimeFile> file = {};
  std::string problem = {};  ///< why a loader stops at it
};

/// Files by path, each read once.
class RunTimeFiles {
 public:
  /// Of a universal file the slice for `arch`, or the first one where there is none for it.
  const Looked& at(const fs::path& path, Arch arch);
  /// From now on nothing lies at this path.
  void hide(const fs::path& path) { hidden_.insert(path.native()); }
  /// What lies at a path, looked at once.
  const Stamp& stamp(const fs::path& path);
  /// Of every path that was looked at, those included where nothing is.
  const std::unordered_map<std::string, Stamp>& stamps() const { return stamps_; }

 private:
  std::unordered_map<std::string, Stamp> stamps_;
  std::unordered_map<std::string, Looked> known_;
  std::set<std::string, std::less<>> hidden_;
};

/// What a loader reads of an image.
RunTimeFile run_time_part(const fs::path& path, const Image& image);

/// Errors: as `open_binary`; refused (a file that needs no run-time files by its nature).
Result<RunTimeFile> read_run_time_file(const fs::path& path, Arch arch);

}  // namespace fibula
