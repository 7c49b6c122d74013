/// Several archives that were named together make one folder: a library's headers in one, its binaries in the other.
#pragma once

#include <fibula/result.hpp>

#include "os/folder.hpp"

#include <string>
#include <vector>

namespace fibula {

/// Moves everything of a folder inside `place` to where it would lie had it been unpacked into `place` itself. What is
/// there with the same bytes stays, and so does what is no part of a library. Gives the names of licences that were
/// left out: the archives hold them with other content. Errors: refused (a header, library or source of which there are
/// two), io.
Result<std::vector<std::string>> merge_archive(const Folder& place, const std::string& inside);

}  // namespace fibula
