/// An index of names with their roles, kept in a database of the cache.
#pragma once

#include "os/database.hpp"

#include <fibula/locate.hpp>

#include <set>

namespace fibula {

/// A folder whose files are in the index.
struct IndexedPlace {
  std::filesystem::path folder;
  std::string library = {};                       ///< that it belongs to
  bool deep = false;                              ///< with what lies below it
  bool only_file_names = false;                   ///< of headers that are too many to be read
  std::vector<std::filesystem::path> files = {};  ///< only these, where there are some; absolute
  std::string shelf = {}, part = {};              ///< whose entry it is, where a part of an index tells of it
  std::string state = {};                         ///< what that part says of it; empty: stamps tell whether it changed
};

/// A version on a shelf: what lies in its folder; of one that is used in place what its card names.
IndexedPlace place_of_card(const Card& card);

/// What changes when files of a place come, go or change.
std::string stamps_of(const IndexedPlace& place);

class NameIndex {
 public:
  /// Opens what is kept, or makes it. Errors: missing_tool, io.
  static Result<NameIndex> open(const Cache& cache);
  /// Reads what came or changed in these places since they were read.
  Result<void> bring_up_to_date(const std::vector<IndexedPlace>& places);
  /// The same of all that a shelf has, by its index: only what changed there is looked at. `shelf`: one place.
  Result<void> bring_up_to_date(const Shelf& shelf, const std::vector<ShelfPart>& parts);
  /// In these places, and those of these shelves.
  Result<std::vector<Hit>> find(const std::string& name, const std::vector<IndexedPlace>& places,
                                const std::vector<std::string>& shelves, size_t most);
  /// The libraries of a shelf that have a name in this role; a readable C++ name finds what reads like it.
  Result<std::vector<std::string>> libraries_with(const std::string& name, HitRole role, const std::string& shelf);

 private:
  explicit NameIndex(Database database) : database_(std::move(database)) {}
  Result<void> read_all(const std::vector<const IndexedPlace*>& places);
  Result<void> read_place(const IndexedPlace& place);
  Result<void> read_part(const Shelf& shelf, const ShelfPart& part);
  Result<void> read_entries(const Shelf& shelf, const ShelfPart& part, const std::set<std::string>& libraries,
                            const std::set<std::string>& states);
  Result<void> forget_place(int64_t place);
  Result<void> look_at_open_ones(const Shelf& shelf);
  Result<void> read_file(const std::filesystem::path& file, int64_t place, const std::string& stamp, bool only_name);

  Database database_;
};

}  // namespace fibula
