/// One copy of each content on a shelf, however many libraries and versions hold it: files of entries are hard links
/// to `<shelf>/.store/<first two digits>/<digest>`, where the file system has such links.
#pragma once

#include "shelf/contents.hpp"

namespace fibula {

/// Makes the entry's files share what the store holds already, and adds what it lacks. Where links cannot be made, the
/// entry keeps copies of its own. Errors: io.
Result<void> share_contents(const std::filesystem::path& shelf, const std::filesystem::path& files,
                            const DigestList& contents);

/// Removes from the store what no entry holds any more.
void forget_orphans(const std::filesystem::path& shelf);

}  // namespace fibula
