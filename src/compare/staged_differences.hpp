/// Two folders of files to hand on: what a patch must bring.
#pragma once

#include <fibula/compare.hpp>

#include <filesystem>

namespace fibula {

/// Files by their digests, and of libraries among them whether the new one serves the programs of the old one. Errors:
/// those of the folders' lists.
Result<std::vector<Difference>> compare_staged(const std::filesystem::path& first, const std::filesystem::path& second);

}  // namespace fibula
