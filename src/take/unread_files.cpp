/// What lies in a download and is not looked into: archives in it, and libraries under names that no linker takes.
#include "base/text.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/source.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

bool is_called_an_archive(const std::string& file) {
  const std::string name = text::lower(file);
  static constexpr std::string_view endings[] = {".zip", ".aar",     ".jar",     ".whl", ".nupkg",
                                                 ".7z",  ".tar",     ".tar.gz",  ".tgz", ".tar.xz",
                                                 ".txz", ".tar.bz2", ".tar.zst", ".deb", ".rpm"};
  return std::any_of(std::begin(endings), std::end(endings),
                     [&](std::string_view ending) { return name.ends_with(ending); });
}

bool is_shared_library(const fs::path& file) {
  const auto facts = inspect(file);
  return facts && (facts->kind.value == Kind::shared_library || facts->kind.value == Kind::plugin);
}

}  // namespace

void find_unread(Source& source) {
  constexpr size_t most = 500;  // a download without a library is looked through, not searched
  size_t looked_at = 0;
  for (const auto& file : source.goes_along) {
    if (role_of(file) != Role::other) continue;
    if (is_called_an_archive(file)) {
      source.archives.push_back(file);
    } else if (++looked_at < most && is_shared_library(source.root / file)) {
      source.opened_only.push_back(file);
    }
  }
  if (!source.archives.empty())
    source.remarks.push_back(
        fmt::format("{} not looked into: an archive is taken by itself", and_more(source.archives)));
  if (!source.opened_only.empty())
    source.remarks.push_back(
        fmt::format("{} left out of links: shared libraries under names that no linker takes, which programs open",
                    and_more(source.opened_only)));
}

}  // namespace fibula
