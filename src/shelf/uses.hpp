/// Which projects use a library: one small file each in `<shelf>/.used/<name>/<version>/`, whose time is that of the
/// last use.
#pragma once

#include <fibula/shelf.hpp>

namespace fibula {

/// At most once a day; a shelf that cannot be written to notes nothing.
void note_use(const std::filesystem::path& shelf, const std::string& name, const std::string& version,
              const std::filesystem::path& project);

/// The last one first.
std::vector<ShelfUse> uses_of(const std::filesystem::path& shelf, const std::string& name, const std::string& version);

void forget_uses(const std::filesystem::path& shelf, const std::string& name, const std::string& version);

}  // namespace fibula
