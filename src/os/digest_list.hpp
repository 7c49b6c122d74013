/// Lists of files with their SHA-256 digests, in the form that the coreutils' sha256sum writes and checks.
#pragma once

#include "os/files.hpp"

#include <string>
#include <vector>

namespace fibula {

struct ListedFile {
  std::string file;  ///< relative to the folder that the list is about
  std::string sha256;
};

using DigestList = std::vector<ListedFile>;

std::string to_text(const DigestList& list);

/// Errors: absent, unreadable, malformed (with the line: no digest, or a path that leads out), for which `remedy` is
/// the hint.
Result<DigestList> read_digest_list(const fs::path& file, std::string_view remedy);
/// The same of a text that is that file's.
Result<DigestList> parse_digest_list(std::string_view text, const fs::path& file, std::string_view remedy);

}  // namespace fibula
