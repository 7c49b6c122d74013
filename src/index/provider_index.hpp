/// Which library files of a system define a name: an index for each directory that a lane's linker searches.
///
/// It is one file in the cache, mapped and searched where it lies: a digest of every name with the
/// number of the file that defines it, sorted by digest. Names themselves are not kept: a file that is found is asked
/// before it is believed. When library files change, only those are read again.
#pragma once

#include "os/mapped_file.hpp"

#include <fibula/cache.hpp>

#include <filesystem>
#include <map>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

class ProviderIndex {
 public:
  /// Reads what is kept and brings it up to date. Files that cannot be read define nothing; where nothing can be kept,
  /// the index is made in memory.
  static ProviderIndex over(const std::filesystem::path& directory, const Cache& cache);

  /// Files that seem to define a name, sorted by name; links of one file are named once, by what linkers look for.
  std::vector<std::filesystem::path> files_with(std::string_view name) const;

  uint64_t files() const { return files_.count(); }
  uint64_t names() const { return entries_.count(); }

 private:
  /// Errors: malformed (not an index of this version, or cut short).
  static Result<ProviderIndex> open(Bytes bytes);
  std::filesystem::path path(uint32_t file) const;
  friend class ProviderIndexMaker;

  std::shared_ptr<const MappedFile> mapping_;
  std::shared_ptr<const std::string> memory_;
  Table files_;
  Table entries_;
  std::string_view paths_;
};

/// The indices of the directories of a lane.
class ProviderIndices {
 public:
  explicit ProviderIndices(std::vector<const ProviderIndex*> indices) : indices_(std::move(indices)) {}
  /// In the order of the directories.
  std::vector<std::filesystem::path> files_with(std::string_view name) const;

 private:
  std::vector<const ProviderIndex*> indices_;
};

/// The indices of a fit, each brought up to date once however many lanes ask for it, and only when one does.
class ProviderStore {
 public:
  explicit ProviderStore(Cache cache) : cache_(std::move(cache)) {}
  ProviderIndices over(const std::vector<std::filesystem::path>& directories);
  const Cache& cache() const { return cache_; }

 private:
  Cache cache_;
  std::map<std::filesystem::path, ProviderIndex> indices_;
};

}  // namespace fibula
