/// The digests of a library's files, as `contents.sha256` holds them.
#pragma once

#include "os/digest_list.hpp"

namespace fibula {

/// Digests of these files below `root`, in their order. Links are followed. Errors: as for reading them.
Result<DigestList> digest_files(const std::filesystem::path& root, const std::vector<std::string>& files);

/// Errors: as `read_digest_list`.
Result<DigestList> read_contents(const std::filesystem::path& file);

/// One digest for all of them.
std::string digest_of(const DigestList& contents);

}  // namespace fibula
