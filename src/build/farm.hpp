/// How many commands run at a time.
#pragma once

#include <fibula/project.hpp>

namespace fibula {

/// As the project says; else as many as the compile farm that it compiles through has slots; else 0, for the machine's
/// own cores.
unsigned jobs_at_a_time(const Project& project);

}  // namespace fibula
