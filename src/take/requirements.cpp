/// Which other library an add-on belongs to: the one whose headers its own include.
#include "base/files.hpp"
#include "take/header_roots.hpp"
#include "take/source.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// Headers that every compiler finds by itself.
bool comes_with_system(const std::string& name) {
  std::error_code ignored;
  return name.find('.') == std::string::npos || fs::exists(fs::path("/usr/include") / name, ignored);
}

/// What an add-on's header includes beside itself, if both lay in one directory: `saltlog/log.h` for `"../log.h"` in
/// `saltlog/addons/horn.h`.
std::string seen_from(const std::string& included, const std::string& name) {
  return (fs::path(included).parent_path() / name).lexically_normal().generic_string();
}

}  // namespace

std::vector<Requirement> requirements_of(const Source& source, const std::string& name, const Shelf& shelf) {
  std::vector<Requirement> found;
  std::map<std::string, std::string> wanted = source.elsewhere;
  std::erase_if(wanted, [](const auto& entry) { return comes_with_system(entry.first); });
  if (wanted.empty()) return found;
  const auto cards = shelf.libraries();
  if (!cards) return found;
  std::string last;
  for (const auto& card : *cards) {
    if (card.name == name || card.name == last) continue;
    std::vector<std::string> given;
    for (const auto& header : card.public_headers) given.push_back(included_as(header, card.include_directories));
    const auto gives = [&](const std::string& header) {
      return std::find(given.begin(), given.end(), header) != given.end();
    };
    for (const auto& [header, asking] : wanted) {
      const bool beside = gives(seen_from(included_as(asking, source.directories), header));
      if (!beside && !gives(header)) continue;
      found.push_back({card.name, fmt::format("{} includes {}", asking, header), beside && !gives(header)});
      last = card.name;
      break;
    }
  }
  return found;
}

}  // namespace fibula
