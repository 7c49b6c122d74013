/// Which other library an add-on belongs to: the one whose headers its own include.
#include "take/requirements.hpp"
#include "headers/header_folders.hpp"
#include "headers/header_roots.hpp"
#include "headers/well_known_headers.hpp"
#include "os/files.hpp"
#include "shelf/header_lookup.hpp"
#include "take/bundled.hpp"
#include "take/source.hpp"
#include "take/sources/source_system.hpp"

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

/// Every card that may have one of these headers. One that cannot be read is told: whether its library is required is
/// not known then.
std::vector<Card> readable_cards(const Shelf& shelf, Source& source, const std::map<std::string, std::string>& wanted) {
  std::vector<Card> all;
  std::vector<std::string> headers;
  for (const auto& [header, asking] : wanted) headers.push_back(header);
  for (const auto& name : libraries_to_ask(shelf, Cache::standard(), headers)) {
    auto cards = shelf.versions(name);
    if (!cards) {
      source.remarks.push_back(fmt::format("{}: whether {} is required is not known", render(cards.error()), name));
      continue;
    }
    for (auto& card : *cards) all.push_back(std::move(card));
  }
  return all;
}

/// Asked for on one system alone: by its name, or by who includes it (`uv/win.h`). Elsewhere nobody needs it.
bool is_of_one_system(const std::string& header, const std::string& asking) {
  return !system_of_source(asking, {header}).everywhere();
}

/// The same, but of Linux: most of what is taken is built there.
bool is_of_other_system(const std::string& header, const std::string& asking) {
  const auto system = system_of_source(asking, {header});
  const bool linux = std::find(system.systems.begin(), system.systems.end(), "linux") != system.systems.end();
  return !system.everywhere() && !(linux && system.archs.empty() && !system.foreign);
}

/// Whose header it may be.
std::string owner_of(const Source& source, const Bundled& bundled, const std::string& header) {
  if (const auto library = bundled.library_with(header); !library.empty())
    return fmt::format(", a header of another library, which lies in {}: take that folder by itself", library);
  const auto folder = folder_with(source, header);
  return fmt::format(
      ", which neither it nor the shelf has{}",
      folder.empty() ? "" : fmt::format("; {} has one of that name: take the library that it belongs to", folder));
}

/// Tells of headers that nobody on the shelf has; the first ones say enough.
void tell_unmet(const std::map<std::string, std::string>& unmet, Source& source) {
  constexpr size_t enough = 3;
  size_t told = 0;
  const Bundled bundled(source);
  for (const auto& [header, asking] : unmet) {
    if (comes_with_system(header) || is_of_other_system(header, asking)) continue;
    if (++told > enough) break;
    source.remarks.push_back(fmt::format("{} includes {}{}", asking, header, owner_of(source, bundled, header)));
  }
}

/// Whether a card's headers have what another library's header asks for: by its name, or beside it in one directory.
struct Answer {
  bool plain = false, beside = false;
  explicit operator bool() const { return plain || beside; }
};

class Giver {
 public:
  explicit Giver(const Card& card) {
    const auto directories = card.include_directories_for();
    for (const auto& header : card.public_headers) given_.insert(included_as(header, directories));
  }

  /// It holds headers of the other library itself: a copy of it, or a collection that it is part of.
  bool has_headers_of(const Card& other) const {
    const auto directories = other.include_directories_for();
    return std::any_of(other.public_headers.begin(), other.public_headers.end(),
                       [&](const std::string& header) { return given_.contains(included_as(header, directories)); });
  }

  Answer answer(const std::string& header, const std::string& asking,
                const std::vector<std::string>& directories) const {
    if (given_.contains(header)) return {.plain = true};
    return {.beside = given_.contains(seen_from(included_as(asking, directories), header))};
  }

  /// The same of a library that nothing else leads to: a header of a name that many have is nobody's in particular.
  Answer answer_of_stranger(const std::string& header, const std::string& asking,
                            const std::vector<std::string>& directories) const {
    const Answer found = answer(header, asking, directories);
    return found.plain && is_anybodys_header(header) ? Answer() : found;
  }

 private:
  std::set<std::string> given_;
};

}  // namespace

std::vector<Requirement> requirements_of(Source& source, const Card& own, const Card* joins, const Shelf& shelf) {
  std::vector<Requirement> found;
  auto wanted = source.elsewhere;
  std::erase_if(wanted,
                [](const auto& entry) { return comes_with_compilers(entry.first) || system_of_header(entry.first); });
  if (joins != nullptr) {
    const Giver giver(*joins);
    std::erase_if(wanted, [&](const auto& entry) {
      return static_cast<bool>(giver.answer(entry.first, entry.second, source.directories));
    });
  }
  const auto cards = wanted.empty() ? std::vector<Card>() : readable_cards(shelf, source, wanted);
  std::string last;
  for (const auto& card : cards) {
    if (card.name == own.name || card.name == last || !can_go_together(own, card)) continue;
    const Giver giver(card);
    if (giver.has_headers_of(own)) continue;
    std::optional<Requirement> requirement;
    std::erase_if(wanted, [&](const auto& entry) {
      const auto& [header, asking] = entry;
      const Answer answer = giver.answer_of_stranger(header, asking, source.directories);
      if (!answer) return false;
      if (!requirement)
        requirement = Requirement{
            .library = card.name, .header = header, .because = fmt::format("{} includes {}", asking, header)};
      requirement->shared_include = requirement->shared_include || answer.beside;
      return true;
    });
    if (!requirement) continue;
    found.push_back(std::move(*requirement));
    last = card.name;
  }
  for (const auto& [header, asking] : wanted) {
    if (!comes_with_system(header) && !is_of_one_system(header, asking))
      found.push_back({.header = header, .by = asking, .because = fmt::format("{} includes {}", asking, header)});
  }
  tell_unmet(wanted, source);
  return found;
}

void complete_requirements(Card& card, const Shelf& shelf) {
  const auto is_open = [](const Requirement& requirement) { return requirement.library.empty(); };
  if (std::none_of(card.requirements.begin(), card.requirements.end(), is_open)) return;
  Source nobody;
  const auto directories = card.include_directories_for();
  std::map<std::string, std::string> wanted;
  for (const auto& requirement : card.requirements) {
    if (is_open(requirement)) wanted.emplace(requirement.header, requirement.by);
  }
  for (const auto& other : readable_cards(shelf, nobody, wanted)) {
    if (other.name == card.name || !can_go_together(card, other)) continue;
    const Giver giver(other);
    if (giver.has_headers_of(card)) continue;
    for (auto& requirement : card.requirements) {
      if (!is_open(requirement)) continue;
      const Answer answer = giver.answer_of_stranger(requirement.header, requirement.by, directories);
      if (!answer) continue;
      requirement.library = other.name;
      requirement.shared_include = answer.beside;
    }
  }
  std::erase_if(card.requirements, is_open);
  // Several headers of one library are one requirement.
  std::vector<Requirement> merged;
  for (auto& requirement : card.requirements) {
    const auto same = [&](const Requirement& one) { return one.library == requirement.library; };
    const auto known = std::find_if(merged.begin(), merged.end(), same);
    if (known == merged.end()) {
      merged.push_back(std::move(requirement));
    } else {
      known->shared_include = known->shared_include || requirement.shared_include;
    }
  }
  card.requirements = std::move(merged);
}

}  // namespace fibula
