/// What the programs of a tree are called.
#pragma once

#include <filesystem>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// A folder's name as one of an output or lane: other signs become `-`.
std::string name_for_output(const std::filesystem::path& folder);

/// What a tree is called: by its configure script, where its folder's name has that in it, else by its folder, without
/// a version.
std::string name_of_tree(const std::filesystem::path& root);

/// What makefiles of GNU Automake say of programs (its manual, "Building a program").
struct AutomakePrograms {
  std::map<std::string, std::string> by_source;  ///< the first program that lists a source; paths from the root
  std::set<std::string> only_tried;              ///< sources of programs that are made for tests alone
};
/// `files` relative to `root`.
AutomakePrograms automake_programs(const std::filesystem::path& root, const std::vector<std::filesystem::path>& files);

}  // namespace fibula
