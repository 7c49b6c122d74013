#pragma once

#include "base/bytes.hpp"

#include <filesystem>
#include <string>

namespace fibula {

/// SHA-256 (FIPS 180-4) as 64 lower-case hexadecimal digits. Taken once, when a file comes in.
std::string sha256(std::string_view data);
Result<std::string> sha256_of_file(const std::filesystem::path& path);

/// XXH3, 64 bits: tells whether a file changed, at a twentieth of SHA-256's cost. Not against an attacker.
uint64_t quick_digest(std::string_view data);
Result<uint64_t> quick_digest_of_file(const std::filesystem::path& path);

/// Whether two paths are one file, or two with the same bytes; false when one cannot be read.
bool has_same_content(const std::filesystem::path& one, const std::filesystem::path& other);

}  // namespace fibula
