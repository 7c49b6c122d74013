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
  std::map<std::string, std::string> by_source;          ///< the first program that lists a source; paths from the root
  std::set<std::string> only_tried;                      ///< sources of programs that are made for tests alone
  std::map<std::string, std::set<std::string>> sources;  ///< by program, as they are listed

  /// Whether a source is listed for other programs, and not for this one.
  bool is_of_others(const std::string& program, const std::string& source) const;
};
/// `files` relative to `root`.
AutomakePrograms automake_programs(const std::filesystem::path& root, const std::vector<std::filesystem::path>& files);

/// What the only program of a tree of that name is called, which begins in `main`: by its makefile, else after the
/// tree.
std::string name_of_sole_program(const std::string& tree, const std::string& main, const AutomakePrograms& automake);

}  // namespace fibula
