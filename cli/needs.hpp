/// Run-time files for people and for programs.
#pragma once

#include <fibula/closure.hpp>

#include <string>
#include <vector>

namespace cli {

/// What a file needs as a tree: each need below the file that asks for it first. What comes with the system is named in
/// one sentence, unless `in_full`.
void print_needs_tree(const std::string& root, const std::vector<fibula::ClosureEntry>& entries, bool in_full,
                      const std::string& indent = "  ");

/// Of many files only what is wrong, and how many are well. Gives how many are not.
size_t print_troubles(const std::vector<fibula::FileClosure>& closures);

}  // namespace cli
