#include "index/header_search.hpp"

#include "base/text.hpp"
#include "headers/header_folders.hpp"
#include "headers/well_known_headers.hpp"

namespace fibula {
namespace {

bool ends_with_part(const std::string& path, const std::string& end) {
  return path.size() > end.size() && path.ends_with(end) && path[path.size() - end.size() - 1] == '/';
}

}  // namespace

std::optional<HeaderHit> header_meant(const Card& card, const std::string& included) {
  const auto directories = card.include_directories_for();
  const std::string asked = text::lower(included);
  std::optional<HeaderHit> near;
  for (const auto& header : card.public_headers) {
    const std::string name = included_as(header, directories);
    if (name.empty()) continue;
    if (name == included) return HeaderHit{name, card.root / header, true};
    const std::string lower = text::lower(name);
    const bool similar = lower == asked || ends_with_part(lower, asked) || ends_with_part(asked, lower);
    // The least deep is the one that users are meant to include.
    if (similar && !is_anybodys_header(included) && (!near || name.size() < near->name.size()))
      near = HeaderHit{name, card.root / header};
  }
  return near;
}

}  // namespace fibula
