/// What stands before the program in the words that start it.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

/// The folders of the LD_LIBRARY_PATH with which the words start a program: that of their own assignment, which a shell
/// or `env` makes, else that of this process. Absolute; an empty entry is the folder in which it is started.
std::vector<std::filesystem::path> library_variable(const std::vector<std::string>& words,
                                                    const std::filesystem::path& folder);

}  // namespace fibula
