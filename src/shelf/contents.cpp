#include "shelf/contents.hpp"

#include "base/digest.hpp"
#include "base/text.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"

#include <fmt/format.h>

namespace fibula {

Result<std::vector<Content>> digest_files(const fs::path& root, const std::vector<std::string>& files) {
  std::vector<Content> contents;
  for (const auto& file : files) {
    auto digest = sha256_of_file(root / file);
    if (!digest) return pass(digest);
    contents.push_back({file, std::move(*digest)});
  }
  return contents;
}

std::string contents_text(const std::vector<Content>& contents) {
  std::string text;
  for (const auto& content : contents) text += fmt::format("{}  {}\n", content.sha256, content.file);
  return text;
}

Result<std::vector<Content>> read_contents(const fs::path& file) {
  auto text = read_text(file);
  if (!text) return pass(text);
  std::vector<Content> contents;
  size_t number = 0;
  for (const auto line : text::lines(*text)) {
    ++number;
    if (line.empty()) continue;
    if (line.size() < 67 || line.substr(64, 2) != "  ") {
      return fail({.code = Code::malformed,
                   .what = "is not a digest and a file name",
                   .file = file.string(),
                   .place = fmt::format("line {}", number),
                   .hint = "take the library again with --replace"});
    }
    contents.push_back({std::string(line.substr(66)), std::string(line.substr(0, 64))});
  }
  return contents;
}

std::string digest_of(const std::vector<Content>& contents) {
  return "sha256:" + sha256(contents_text(contents));
}

}  // namespace fibula
