/// What lies in a download and is no library for links: sources beside what is built, archives in it, programs, and
/// libraries under other names.
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

/// `Tide.framework/Tide`, `Tide.framework/Versions/A/Tide`: the library of a framework, by its place.
bool is_of_framework(const fs::path& file) {
  const std::string wanted = file.filename().string() + ".framework";
  return std::any_of(file.begin(), file.end(), [&](const fs::path& part) { return part == wanted; });
}

/// `.mm`, and `.m` unless it is another tool's (Octave has the same ending).
bool is_objective_c(const Source& source, const std::string& file) {
  if (file.ends_with(".mm")) return true;
  if (!file.ends_with(".m")) return false;
  const std::string text = read_text(source.root / file).value_or("");
  return text.find("#import") != std::string::npos || text.find("@implementation") != std::string::npos;
}

/// Puts a file that has no library's name where its bytes say that it belongs.
void put_by_content(const std::string& file, Source& source, std::vector<std::string>& frameworks) {
  const auto facts = inspect(source.root / file);
  if (!facts) return;
  const auto kind = facts->kind.value;
  const bool shared = kind == Kind::shared_library || kind == Kind::plugin;
  if (is_of_framework(file) && (shared || kind == Kind::static_library)) {
    frameworks.push_back(file);
  } else if (shared) {
    source.opened_only.push_back(file);
  } else if (kind == Kind::program) {
    source.programs.push_back(file);
  }
}

}  // namespace

void find_unread(Source& source) {
  constexpr size_t most = 500;  // a download is looked through, not searched
  constexpr size_t few = 5;     // sources that only go along, as for an entry of a DLL
  size_t looked_at = 0;
  std::vector<std::string> frameworks, objective_c;
  for (const auto& file : source.goes_along) {
    if (role_of(file, source.own_folders) != Role::other) continue;
    if (is_called_an_archive(file)) {
      source.archives.push_back(file);
    } else if (source.binaries.empty() && is_objective_c(source, file)) {
      objective_c.push_back(file);
    } else if (++looked_at < most) {
      put_by_content(file, source, frameworks);
    }
  }
  if (!source.archives.empty() && source.binaries.empty())
    source.remarks.push_back(
        fmt::format("{} not looked into: an archive is taken by itself", and_more(source.archives)));
  if (!source.binaries.empty() && source.code.size() > std::max(few, source.binaries.size()))
    source.remarks.push_back(fmt::format(
        "{} in it not compiled: what it brings built is taken; to compile them, take a folder that holds them "
        "and no binaries",
        text::count(source.code.size(), "source")));
  if (!source.opened_only.empty())
    source.remarks.push_back(fmt::format("{} left out of links: {}, which programs open", and_more(source.opened_only),
                                         source.opened_only.size() == 1
                                             ? "a shared library under a name that no linker takes"
                                             : "shared libraries under names that no linker takes"));
  if (!objective_c.empty())
    source.remarks.push_back(
        fmt::format("{} left out: Objective-C is compiled only where a card names it", and_more(objective_c)));
  if (!frameworks.empty())
    source.remarks.push_back(fmt::format("{} left out: {} of macOS or iOS, which Fibula does not link",
                                         and_more(frameworks), frameworks.size() == 1 ? "a framework" : "frameworks"));
}

}  // namespace fibula
