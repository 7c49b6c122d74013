#include "stage/staged_list.hpp"

#include "base/text.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

constexpr size_t digest_size = 64;
constexpr std::string_view between = "  ";

bool is_digest(std::string_view text) {
  return text.size() == digest_size && text.find_first_not_of("0123456789abcdef") == std::string_view::npos;
}

/// A path that leads out of the folder is not one that was written here.
bool is_listed_path(std::string_view text) {
  const fs::path path = fs::path(text).lexically_normal();
  return !text.empty() && !path.is_absolute() && *path.begin() != "..";
}

}  // namespace

Result<StagedList> read_staged_list(const fs::path& file) {
  StagedList list;
  std::error_code ignored;
  if (!fs::exists(file, ignored)) return list;
  const auto content = read_text(file);
  if (!content) return fail(content.error());
  unsigned number = 0;
  for (const auto line : text::lines(*content)) {
    ++number;
    if (line.empty()) continue;
    const std::string_view digest = line.substr(0, digest_size);
    const std::string_view rest = line.size() > digest_size ? line.substr(digest_size) : std::string_view();
    if (is_digest(digest) && rest.starts_with(between) && is_listed_path(rest.substr(between.size()))) {
      list.emplace(rest.substr(between.size()), digest);
      continue;
    }
    return fail({.code = Code::malformed,
                 .what = "is no line of a digest, two spaces and a path in the folder",
                 .file = file.string(),
                 .place = fmt::format("line {}", number),
                 .hint = "stage into a new folder; what lies in this one is not touched"});
  }
  return list;
}

Result<void> write_staged_list(const fs::path& file, const StagedList& list) {
  std::string content;
  for (const auto& [path, digest] : list) content += digest + std::string(between) + path + "\n";
  return without_value(write_if_changed(file, content, Flush::later));
}

}  // namespace fibula
