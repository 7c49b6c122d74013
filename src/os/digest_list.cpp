#include "os/digest_list.hpp"

#include "base/inside_path.hpp"
#include "base/text.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

constexpr size_t digest_size = 64;
constexpr std::string_view between = "  ";

bool is_digest(std::string_view text) {
  return text.size() == digest_size && text.find_first_not_of("0123456789abcdef") == std::string_view::npos;
}

}  // namespace

std::string to_text(const DigestList& list) {
  std::string text;
  for (const auto& [file, sha256] : list) text.append(sha256).append(between).append(file).append("\n");
  return text;
}

Result<DigestList> read_digest_list(const fs::path& file, std::string_view remedy) {
  const auto content = read_text(file);
  if (!content) return fail(content.error());
  return parse_digest_list(*content, file, remedy);
}

Result<DigestList> parse_digest_list(std::string_view text, const fs::path& file, std::string_view remedy) {
  DigestList list;
  unsigned number = 0;
  for (const auto line : text::lines(text)) {
    ++number;
    if (line.empty()) continue;
    const std::string_view digest = line.substr(0, digest_size);
    const std::string_view rest = line.size() > digest_size ? line.substr(digest_size) : std::string_view();
    if (!is_digest(digest) || !rest.starts_with(between) || !InsidePath::of(rest.substr(between.size())))
      return fail({.code = Code::malformed,
                   .what = "not a digest, two spaces and a path in the folder",
                   .file = file.string(),
                   .line = number,
                   .hint = std::string(remedy)});
    list.push_back({std::string(rest.substr(between.size())), std::string(digest)});
  }
  return list;
}

}  // namespace fibula
