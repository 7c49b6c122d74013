/// Which other library an add-on belongs to: the one whose headers its own include.
#include "headers/header_folders.hpp"
#include "headers/header_roots.hpp"
#include "os/files.hpp"
#include "take/source.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <optional>
#include <set>

namespace fibula {
namespace {

/// What an add-on's header includes beside itself, if both lay in one directory: `saltlog/log.h` for `"../log.h"` in
/// `saltlog/addons/horn.h`.
std::string seen_from(const std::string& included, const std::string& name) {
  return (fs::path(included).parent_path() / name).lexically_normal().generic_string();
}

/// Where another library of the same prefix has a header, below a directory of its own.
std::string folder_with(const Source& source, const std::string& name) {
  std::error_code error;
  if (!source.from_prefix) return {};
  for (auto entry = fs::directory_iterator(source.root / "include", error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    std::error_code ignored;
    if (fs::exists(entry->path() / name, ignored)) return entry->path().string();
  }
  return {};
}

/// A build of a library for other machines has the same headers, and serves nobody here.
bool can_go_together(const Card& a, const Card& b) {
  if (a.variants.empty() || b.variants.empty()) return true;
  return std::any_of(a.variants.begin(), a.variants.end(), [&](const Variant& one) {
    return std::any_of(b.variants.begin(), b.variants.end(),
                       [&](const Variant& other) { return one.target == other.target; });
  });
}

/// Every card that can be read. One that cannot is told: whether its library is required is not known then.
std::vector<Card> readable_cards(const Shelf& shelf, Source& source) {
  std::vector<Card> all;
  for (const auto& name : shelf.names()) {
    auto cards = shelf.versions(name);
    if (!cards) {
      source.remarks.push_back(fmt::format("{}: whether {} is required is not known", render(cards.error()), name));
      continue;
    }
    for (auto& card : *cards) all.push_back(std::move(card));
  }
  return all;
}

/// Tells of headers that nobody on the shelf has; the first ones say enough.
void tell_unmet(const std::map<std::string, std::string>& unmet, Source& source) {
  constexpr size_t enough = 3;
  size_t told = 0;
  for (const auto& [header, asking] : unmet) {
    if (comes_with_system(header)) continue;
    if (++told > enough) break;
    const auto folder = folder_with(source, header);
    source.remarks.push_back(fmt::format(
        "{} includes {}, which neither it nor the shelf has{}", asking, header,
        folder.empty() ? "" : fmt::format("; {} has one of that name: take the library that it belongs to", folder)));
  }
}

}  // namespace

std::vector<Requirement> requirements_of(Source& source, const Card& own, const Shelf& shelf) {
  std::vector<Requirement> found;
  auto wanted = source.elsewhere;
  std::erase_if(wanted, [](const auto& entry) { return is_standard_header(entry.first); });
  const auto cards = wanted.empty() ? std::vector<Card>() : readable_cards(shelf, source);
  std::string last;
  for (const auto& card : cards) {
    if (card.name == own.name || card.name == last || !can_go_together(own, card)) continue;
    std::set<std::string> given;
    const auto directories = card.include_directories_for();
    for (const auto& header : card.public_headers) given.insert(included_as(header, directories));
    std::optional<Requirement> requirement;
    std::erase_if(wanted, [&](const auto& entry) {
      const auto& [header, asking] = entry;
      const bool plain = given.contains(header);
      const bool beside = !plain && given.contains(seen_from(included_as(asking, source.directories), header));
      if (!plain && !beside) return false;
      if (!requirement)
        requirement = Requirement{
            .library = card.name, .header = header, .because = fmt::format("{} includes {}", asking, header)};
      requirement->shared_include = requirement->shared_include || beside;
      return true;
    });
    if (!requirement) continue;
    found.push_back(std::move(*requirement));
    last = card.name;
  }
  tell_unmet(wanted, source);
  return found;
}

}  // namespace fibula
