/// What a program will probably ask of its libraries, before its first compile.
#pragma once

#include "link/link_file.hpp"

#include <set>
#include <string>

namespace fibula {

/// Every identifier in the code of these texts: not in comments, literals and names of headers. Files that cannot be
/// read add nothing.
std::set<std::string, std::less<>> identifiers_in_files(const std::vector<std::filesystem::path>& files);

/// Names that a library file defines and whose last part the program mentions: the functions that it is going to call.
std::set<std::string> mentioned_symbols(const LinkFile& file, const std::set<std::string, std::less<>>& identifiers,
                                        const Target& objects);

}  // namespace fibula
