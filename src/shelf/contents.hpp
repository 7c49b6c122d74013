/// The digests of a library's files, as `contents.sha256` holds them: the format of the coreutils' sha256sum.
#pragma once

#include <fibula/shelf.hpp>

namespace fibula {

struct Content {
  std::string file;  ///< relative to the library's files
  std::string sha256;
};

/// Digests of these files below `root`, in their order. Links are followed. Errors: as for reading them.
Result<std::vector<Content>> digest_files(const std::filesystem::path& root, const std::vector<std::string>& files);

std::string contents_text(const std::vector<Content>& contents);
Result<std::vector<Content>> read_contents(const std::filesystem::path& file);

/// One digest for all of them.
std::string digest_of(const std::vector<Content>& contents);

}  // namespace fibula
