/// Two folders of files to hand on: what a patch must bring.
#pragma once

#include <fibula/compare.hpp>

#include <filesystem>

namespace fibula {

/// Files by the digests that the folders' lists have. Errors: those of the lists.
Result<std::vector<Difference>> compare_staged(const std::filesystem::path& first, const std::filesystem::path& second);

}  // namespace fibula
