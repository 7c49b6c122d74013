/// Headers that a source uses where they are there: they are no input while they are not.
#pragma once

#include <string>
#include <vector>

namespace fibula {

/// The headers after which a file asks with `__has_include`, as they stand in it (C++20, [cpp.cond]; C23, 6.10.1).
std::vector<std::string> asked_headers(const std::string& file);

/// The one of these that came with a new name in a folder that is searched; empty when none did.
std::string asked_header_in(const std::string& folder, const std::string& name, const std::vector<std::string>& asked);

/// Whether a name can be that of a header, or of a folder with some.
bool may_be_asked_for(const std::string& name);

}  // namespace fibula
