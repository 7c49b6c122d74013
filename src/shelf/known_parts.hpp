/// What a database of the cache has read of a shelf's index.
#pragma once

#include "os/database.hpp"

#include <fibula/shelf.hpp>

#include <string>
#include <vector>

namespace fibula {

/// Its table, for the schema of such a database.
#define FIBULA_TABLE_OF_PARTS \
  "CREATE TABLE IF NOT EXISTS part(shelf TEXT, name TEXT, digest TEXT, PRIMARY KEY(shelf, name));"

/// The parts of a place that are not as they were when they were read.
Result<std::vector<const ShelfPart*>> changed_parts(Database& database, const std::string& shelf,
                                                    const std::vector<ShelfPart>& parts);
/// Notes that one was read.
Result<void> note_part(Database& database, const std::string& shelf, const ShelfPart& part);

}  // namespace fibula
