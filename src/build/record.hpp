/// What a build remembers of each file that it made: the command, and the state of everything that went in.
#pragma once

#include "os/files.hpp"
#include "os/stamp.hpp"

#include <map>
#include <string>
#include <vector>

namespace fibula {

/// A file as it was at some time: an equal stamp tells at once that it is the same; else the digest decides.
struct FileState {
  std::string path;
  Stamp stamp;
  uint64_t digest = 0;
};

class BuildRecord {
 public:
  /// An unreadable or damaged record is as good as none: everything is made again.
  static BuildRecord load(const fs::path& file);
  Result<void> save(const fs::path& file) const;

  /// Why `product` must be made again; empty when it is up to date.
  std::string cause(const fs::path& product, const std::vector<std::string>& command);
  /// Whether a product is as it was made, from inputs that are as they were.
  bool holds(const fs::path& product);
  /// Remembers that `product` was made by `command` from these files.
  void made(const fs::path& product, const std::vector<std::string>& command, const std::vector<fs::path>& inputs);
  void forget(const fs::path& product) { entries_.erase(product.string()); }

 private:
  struct Entry {
    uint64_t command = 0;
    std::vector<uint32_t> inputs;  ///< positions in states_
  };
  enum class Judged : uint8_t { not_yet, same, changed };
  bool same(uint32_t state);
  uint32_t remember(const fs::path& input);

  std::map<std::string, Entry> entries_;
  /// Hundreds of headers go into every object: each state is kept, and looked at, once.
  std::vector<FileState> states_;
  std::vector<Judged> judged_;
  std::map<std::string, uint32_t> fresh_;  ///< states taken in this run
};

/// The files that a dependency file of GCC or Clang names (make syntax: back-slashes before spaces and line ends, `$$`,
/// `\#`).
std::vector<fs::path> dependencies_in(std::string_view text);

}  // namespace fibula
