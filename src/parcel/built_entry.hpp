/// What was built of a library that comes as source, as an entry of a shelf: like one that came built.
#pragma once

#include <fibula/project.hpp>
#include <fibula/shelf.hpp>

#include <string>
#include <vector>

namespace fibula {

/// Puts it on `place`: its headers, and the builds that are kept for the project's lanes as their settings are now.
/// Gives the lanes without one. Errors: refused (the project does not use it; nothing of it is built), those of
/// `gather`, io.
Result<std::vector<std::string>> put_built_on(const Shelf& place, const Project& project, const Shelf& shelf,
                                              const std::string& library);

}  // namespace fibula
