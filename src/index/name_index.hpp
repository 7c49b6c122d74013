/// An index of names with their roles, kept in a database of the cache.
#pragma once

#include "os/database.hpp"

#include <fibula/locate.hpp>

namespace fibula {

/// A folder whose files are in the index.
struct IndexedPlace {
  std::filesystem::path folder;
  std::string library = {};      ///< that it belongs to
  bool deep = false;             ///< with what lies below it
  bool only_file_names = false;  ///< of headers that are too many to be read
};

class NameIndex {
 public:
  /// Opens what is kept, or makes it. Errors: missing_tool, io.
  static Result<NameIndex> open(const Cache& cache);
  /// Reads what came or changed in these places since they were read.
  Result<void> bring_up_to_date(const std::vector<IndexedPlace>& places);
  Result<std::vector<Hit>> find(const std::string& name, const std::vector<IndexedPlace>& places, size_t most);

 private:
  explicit NameIndex(Database database) : database_(std::move(database)) {}
  Result<void> read_place(const IndexedPlace& place);
  Result<void> read_file(const std::filesystem::path& file, int64_t place, const std::string& stamp, bool only_name);

  Database database_;
};

}  // namespace fibula
