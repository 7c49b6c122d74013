#pragma once

#include <string>
#include <vector>

namespace fibula {

/// Headers of C, C++ and assemblers.
bool is_header_name(const std::string& file);
/// Of assemblers: C compilers make nothing of it.
bool is_assembler_header(const std::string& file);

/// Directories, relative to the root that the headers are relative to, that must stand on the include path for them.
std::vector<std::string> include_directories(const std::vector<std::string>& headers);

/// The headers that lie below one of the directories.
std::vector<std::string> headers_below(const std::vector<std::string>& headers,
                                       const std::vector<std::string>& directories);

/// A header's name as it is written behind #include: relative to the innermost of the directories. Empty when it lies
/// below none.
std::string included_as(const std::string& header, const std::vector<std::string>& directories);

}  // namespace fibula
