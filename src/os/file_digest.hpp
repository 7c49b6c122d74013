/// Digests of whole files.
#pragma once

#include <fibula/result.hpp>

#include <cstdint>
#include <filesystem>
#include <string>

namespace fibula {

/// SHA-256 of a file's bytes, as `sha256` writes it. Errors: absent, unreadable.
Result<std::string> sha256_of_file(const std::filesystem::path& path);

/// XXH3 of a file's bytes. Errors: absent, unreadable.
Result<uint64_t> quick_digest_of_file(const std::filesystem::path& path);

/// XXH3 of the names in a folder, with what kind of file each is; never 0. One that cannot be listed is as one without
/// any.
uint64_t quick_digest_of_names(const std::filesystem::path& folder);

/// Whether two paths are one file, or two with the same bytes; false when one cannot be read.
bool has_same_content(const std::filesystem::path& one, const std::filesystem::path& other);

}  // namespace fibula
