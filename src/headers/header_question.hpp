/// How a lane's compiler is asked what headers contain, and whether they compile.
#pragma once

#include <fibula/toolchain.hpp>

namespace fibula {

/// What stands on the command line of every compile of the lane.
struct HeaderContext {
  bool cxx = true;  ///< the language that they are read in
  std::vector<std::string> flags;
  std::vector<std::string> definitions;
  std::vector<std::filesystem::path> include_directories;
};

/// Preprocesses a file to standard output, with line markers.
std::vector<std::string> preprocess_command(const Toolchain& toolchain, const HeaderContext& context,
                                            const std::string& standard, const std::filesystem::path& file);
/// Compiles it without making anything.
std::vector<std::string> check_command(const Toolchain& toolchain, const HeaderContext& context,
                                       const std::string& standard, const std::filesystem::path& file);

/// The first line of what a compiler said that speaks of an error; empty where none does.
std::string first_error(std::string_view said);

/// The standards after this one that the compiler knows, oldest first.
std::vector<std::string> newer_standards(const Toolchain& toolchain, bool cxx, const std::string& than);

}  // namespace fibula
