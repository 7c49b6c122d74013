#include "shelf/contents.hpp"

#include "base/digest.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"

namespace fibula {

Result<DigestList> digest_files(const fs::path& root, const std::vector<std::string>& files) {
  DigestList contents;
  for (const auto& file : files) {
    auto digest = sha256_of_file(root / file);
    if (!digest) return pass(digest);
    contents.push_back({file, std::move(*digest)});
  }
  return contents;
}

Result<DigestList> read_contents(const fs::path& file) {
  return read_digest_list(file, "take the library again with --replace");
}

std::string digest_of(const DigestList& contents) {
  return "sha256:" + sha256(to_text(contents));
}

}  // namespace fibula
