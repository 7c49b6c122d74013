/// What a library offers to links, as far as two libraries with the same cannot be in one program.
#pragma once

#include <cstdint>
#include <filesystem>
#include <vector>

namespace fibula {

/// The hashes, sorted, of the names that a static or shared library defines for others; weak ones, and those of the
/// C++ standard library, are everybody's. Empty where the file cannot be read.
std::vector<uint64_t> offered_names(const std::filesystem::path& file);

/// Whether most of what one of them offers the other one offers too.
bool offer_the_same(const std::vector<uint64_t>& one, const std::vector<uint64_t>& other);

/// Whether a small archive needs something that another library offers.
bool needs_one_of(const std::filesystem::path& archive, const std::vector<uint64_t>& offers);

/// The number of members of an archive; 0 for other files.
size_t member_count(const std::filesystem::path& file);

}  // namespace fibula
