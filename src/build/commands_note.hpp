/// Whether the compilation database still says what it should: writing it costs as much as planning a large project.
#pragma once

#include <fibula/project.hpp>

#include <cstdint>
#include <map>
#include <string>

namespace fibula {

/// Digests of all compile commands, by lane; 0: not known.
using CommandDigests = std::map<std::string, uint64_t>;

/// Whether the database was written from these commands, for the lanes that the project has, and is as it was written.
bool is_database_fresh(const Project& project, const CommandDigests& digests);
/// Notes that it was.
void note_database(const Project& project, const CommandDigests& digests);

}  // namespace fibula
