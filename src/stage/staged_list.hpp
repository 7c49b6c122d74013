/// The list of what lies in a staged folder, in the form that `sha256sum --check` reads.
#pragma once

#include "os/files.hpp"

#include <map>
#include <string>

namespace fibula {

constexpr const char* staged_list_name = "staged.sha256";

/// Digests by path relative to the folder.
using StagedList = std::map<std::string, std::string>;

/// Errors: malformed (with the line), unreadable. A folder without one gives an empty list.
Result<StagedList> read_staged_list(const fs::path& file);
/// Written only when it differs, so that nothing changes where nothing was done. Errors: io.
Result<void> write_staged_list(const fs::path& file, const StagedList& list);

}  // namespace fibula
