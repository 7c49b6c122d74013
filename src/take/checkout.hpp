/// Git repositories, through git itself.
#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <string>

namespace fibula {

struct CheckoutRequest {
  std::string repository;  ///< a path or URL
  std::string at = {};     ///< tag, branch or commit; empty: what the repository itself checks out
  bool submodules = false;
};

/// Checks the tree out into an empty folder, without the store of its history, and gives the commit. No hook of the
/// repository or of this machine runs. Errors: missing_tool (no git), absent (no such repository), refused (no such tag
/// or commit).
Result<std::string> checkout(const CheckoutRequest& request, const std::filesystem::path& into);

/// Whether the text can only mean a repository: a URL of one, or a folder that is one.
bool is_repository(const std::string& source);

}  // namespace fibula
