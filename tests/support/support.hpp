#pragma once

#include <filesystem>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace test {

namespace fs = std::filesystem;

/// A folder of one's own, removed with everything in it.
class Folder {
 public:
  Folder();
  Folder(const Folder&) = delete;
  Folder& operator=(const Folder&) = delete;
  ~Folder();

  const fs::path& path() const { return path_; }
  fs::path operator/(const fs::path& name) const { return path_ / name; }
  /// Writes a file and the folders above it.
  fs::path write(const fs::path& name, const std::string& content) const;

 private:
  fs::path path_;
};

std::string read(const fs::path& path);

/// One word for a shell, whatever signs it holds.
std::string quoted(const fs::path& word);

struct Ran {
  int status = 0;
  std::string out;
  std::string err;
  std::string all() const { return out + err; }
};

/// Runs a command line through a shell, in a folder, with the machine's own search variables unset.
Ran shell(const std::string& command, const fs::path& folder = fs::current_path());

/// As `shell`, and a failure ends the test with what was printed.
std::string must(const std::string& command, const fs::path& folder = fs::current_path());

/// A shelf, a cache and a working folder of its own, and the tool that uses them.
class Workplace {
 public:
  Workplace();
  const Folder& folder() const { return folder_; }
  fs::path operator/(const fs::path& name) const { return folder_ / name; }
  fs::path shelf() const { return folder_ / "shelf"; }
  Ran fibula(const std::string& arguments, const fs::path& in = {}) const;
  /// A command line for a shell in the working folder, with the tool as $FIBULA.
  Ran shell(const std::string& command) const;
  nlohmann::json fibula_json(const std::string& arguments, const fs::path& in = {}) const;
  /// Builds the harbour's prebuilt libraries into `prebuilt`, with these compiler flags.
  fs::path prebuilt(const std::string& flags = "") const;
  /// A copy of the sample project.
  fs::path harbourlog() const;
  /// Everything below the shelf, without the lock and the index.
  std::vector<std::string> shelf_entries() const;

 private:
  Folder folder_;
};

}  // namespace test
