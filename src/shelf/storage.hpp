/// Entries appear on a shelf and leave it whole or not at all: they are made beside it and renamed, under a lock.
#pragma once

#include "base/files.hpp"
#include "shelf/contents.hpp"

namespace fibula {

/// Puts a finished folder on the shelf as `name/version`; with `replace` in the place of an entry that is there.
/// Errors: refused (it is there and `replace` is not set), io.
Result<bool> publish_entry(const fs::path& shelf, TemporaryFolder& entry, const Card& card, bool replace);

Result<bool> remove_entry(const fs::path& shelf, const std::string& name, const std::string& version);

/// Copies files below `from` to the same places below `to`; links inside stay links. Errors: io, unreadable.
Result<bool> copy_files(const fs::path& from, const fs::path& to, const std::vector<std::string>& files);

}  // namespace fibula
