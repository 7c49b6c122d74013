#include <fibula/shelf.hpp>

#include "base/address.hpp"
#include "base/digest.hpp"
#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "base/version.hpp"
#include "card/kept_card.hpp"
#include "os/download.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"

#include <fibula/cache.hpp>
#include "os/host.hpp"
#include "os/stamp.hpp"
#include "shelf/built.hpp"
#include "shelf/contents.hpp"
#include "shelf/index.hpp"
#include "shelf/publish.hpp"
#include "shelf/publish_entry.hpp"
#include "shelf/served.hpp"
#include "shelf/storage.hpp"
#include "shelf/uses.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <optional>
#include <set>

namespace fibula {

/// A folder, or a server with its cache.
struct Shelf::Place {
  fs::path folder = {};
  std::unique_ptr<ServedShelf> served = {};
  fs::path cache = {};                            ///< of a server
  std::optional<TemporaryFolder> own_cache = {};  ///< where nothing is kept between calls

  std::string shown() const { return served ? without_secrets(served->url()) : folder.string(); }

  Result<std::vector<IndexLine>> lines(const std::vector<std::string>& libraries) const {
    if (!served) return libraries.empty() ? index_of(folder) : index_of(folder, libraries);
    if (libraries.empty()) return served->lines();
    std::vector<IndexLine> all;
    for (const auto& library : libraries) {
      auto lines = served->lines(library);
      if (!lines) return lines;
      all.insert(all.end(), lines->begin(), lines->end());
    }
    return all;
  }

  /// A name that cannot be one is on no shelf: asking for it reads nothing elsewhere.
  static bool can_hold(const std::string& name, const std::string& version) {
    return is_plain_name(name) && is_plain_name(version);
  }

  std::vector<std::string> names() const {
    if (!served) return folders_in(folder);
    std::vector<std::string> names;
    for (const auto& line : served->lines().value_or(std::vector<IndexLine>())) {
      if (names.empty() || names.back() != line.name) names.push_back(line.name);
    }
    return names;
  }

  Result<std::vector<Card>> versions(const std::string& name) const {
    std::vector<Card> cards;
    const auto add = [&](Result<Card> card) -> Result<void> {
      if (!card) return pass(card);
      cards.push_back(std::move(*card));
      return {};
    };
    if (served) {
      auto lines = served->lines(name);
      if (!lines) return pass(lines);
      for (const auto& line : *lines) {
        if (line.name != name) continue;
        if (auto added = add(served->card(line)); !added) return pass(added);
      }
      return cards;
    }
    if (!is_plain_name(name)) return cards;
    const Cache kept = Cache::standard();
    for (const auto& version : folders_in(folder / name)) {
      auto card = read_or_kept_card(folder / name / version, kept);
      // A folder without a card is no entry, or was taken off just now.
      if (!card && card.error().code == Code::absent) continue;
      if (auto added = add(std::move(card)); !added) return pass(added);
    }
    return cards;
  }

  bool holds(const fs::path& entry) const { return is_inside(served ? cache : folder, entry); }

  /// Where what a server gives out is kept: in the cache, or in a folder that goes with this shelf.
  static Result<std::shared_ptr<Place>> at_server(const std::string& url) {
    auto place = std::make_shared<Place>();
    fs::path kept = Cache::standard().folder();
    if (kept.empty()) {
      auto own = TemporaryFolder::make(temporary_place(), "fibula-served-");
      if (!own) return pass(own);
      kept = own->path();
      place->own_cache.emplace(std::move(*own));
    }
    place->cache = kept / "served" / fmt::format("{:016x}", quick_digest(url));
    place->served = std::make_unique<ServedShelf>(url, place->cache);
    return place;
  }
};

Result<Shelf> Shelf::standard() {
  if (const auto places = environment("FIBULA_SHELF")) {
    std::vector<std::string> named;
    for (const auto part : text::split(*places, ';')) named.emplace_back(part);
    return in_order(named);
  }
  if (const auto data = environment("XDG_DATA_HOME")) return at(fs::path(*data) / "fibula" / "shelf");
  if (const auto home = environment("HOME")) return at(fs::path(*home) / ".local" / "share" / "fibula" / "shelf");
  return fail({.code = Code::missing_tool,
               .what = "no folder for the shelf: FIBULA_SHELF, XDG_DATA_HOME and HOME are all unset",
               .hint = "set FIBULA_SHELF, or name a folder with --shelf"});
}

Shelf Shelf::at(fs::path folder) {
  return Shelf({std::make_shared<Place>(Place{.folder = absolute_path(folder)})});
}

Result<Shelf> Shelf::in_order(const std::vector<std::string>& places) {
  Places made;
  for (const auto& place : places) {
    if (place.empty()) continue;
    if (!is_url(place)) {
      made.push_back(std::make_shared<Place>(Place{.folder = absolute_path(place)}));
      continue;
    }
    if (!place.starts_with("http://") && !place.starts_with("https://"))
      return fail({.code = Code::usage,
                   .what = "is no place for a shelf",
                   .file = place,
                   .hint = "name a folder, or an http or https address"});
    const std::string url = place.substr(0, place.find_last_not_of('/') + 1);
    auto served = Place::at_server(url);
    if (!served) return pass(served);
    made.push_back(std::move(*served));
  }
  if (made.empty())
    return fail({.code = Code::usage, .what = "no place for a shelf is named", .hint = "name a folder"});
  return Shelf(std::move(made));
}

Shelf Shelf::before(const Shelf& other) const {
  Places all = places_;
  all.insert(all.end(), other.places_.begin(), other.places_.end());
  return Shelf(std::move(all));
}

const fs::path& Shelf::folder() const {
  static const fs::path none;
  const auto own = std::find_if(places_.begin(), places_.end(), [](const auto& place) { return !place->served; });
  return own == places_.end() ? none : (*own)->folder;
}

std::string Shelf::shown() const {
  std::vector<std::string> names;
  for (const auto& place : places_) names.push_back(place->shown());
  return text::join(names, ", ");
}

std::vector<std::string> Shelf::names() const {
  std::set<std::string> all;
  for (const auto& place : places_) {
    for (auto& name : place->names()) all.insert(std::move(name));
  }
  return {all.begin(), all.end()};
}

Result<std::vector<Card>> Shelf::versions(const std::string& name) const {
  std::vector<Card> cards;
  for (const auto& place : places_) {
    auto found = place->versions(name);
    if (!found) return pass(found);
    for (auto& card : *found) {
      const auto hidden = [&](const Card& other) { return other.version == card.version; };
      if (std::none_of(cards.begin(), cards.end(), hidden)) cards.push_back(std::move(card));
    }
  }
  std::sort(cards.begin(), cards.end(),
            [](const Card& a, const Card& b) { return compare_versions(a.version, b.version) > 0; });
  return cards;
}

Result<std::vector<Card>> Shelf::libraries() const {
  std::vector<Card> all;
  for (const auto& name : names()) {
    auto cards = versions(name);
    if (!cards) return pass(cards);
    for (auto& card : *cards) all.push_back(std::move(card));
  }
  return all;
}

namespace {

ShelfLine shown_line(IndexLine line, std::string shelf) {
  return {std::move(line.name),     std::move(line.version), std::move(line.variants),
          std::move(line.in_place), std::move(shelf),        std::move(line.card_sha256)};
}

}  // namespace

std::vector<Shelf> Shelf::places() const {
  std::vector<Shelf> all;
  for (const auto& place : places_) all.push_back(Shelf(Places{place}));
  return all;
}

Result<std::vector<ShelfPart>> Shelf::parts() const {
  const Place& place = *places_.front();
  auto parts = place.served ? place.served->index_parts() : parts_of(place.folder);
  if (!parts) return pass(parts);
  std::vector<ShelfPart> all;
  for (auto& part : *parts) all.push_back({std::move(part.name), std::move(part.sha256)});
  return all;
}

Result<std::vector<ShelfLine>> Shelf::list_part(const ShelfPart& part) const {
  const Place& place = *places_.front();
  const IndexPart named{part.name, part.digest};
  auto read = place.served ? place.served->part_lines(named) : lines_of(place.folder, named);
  if (!read) return pass(read);
  std::vector<ShelfLine> lines;
  for (auto& line : *read) lines.push_back(shown_line(std::move(line), place.shown()));
  return lines;
}

Result<std::vector<ShelfLine>> Shelf::list(const std::vector<std::string>& libraries) const {
  std::vector<ShelfLine> all;
  std::set<std::pair<std::string, std::string>> seen;
  for (const auto& place : places_) {
    auto lines = place->lines(libraries);
    if (!lines) return pass(lines);
    for (auto& line : *lines) {
      if (!seen.emplace(line.name, line.version).second) continue;
      all.push_back(shown_line(std::move(line), place->shown()));
    }
  }
  if (places_.size() > 1) {
    std::stable_sort(all.begin(), all.end(), [](const ShelfLine& a, const ShelfLine& b) {
      return a.name != b.name ? a.name < b.name : compare_versions(a.version, b.version) > 0;
    });
  }
  return all;
}

Result<Card> Shelf::card(const std::string& name, const std::string& version) const {
  for (const auto& place : places_) {
    if (!Place::can_hold(name, version)) break;
    if (!place->served) {
      auto read = read_card(place->folder / name / version);
      if (read || read.error().code != Code::absent) return read;
      continue;
    }
    for (auto& card : place->versions(name).value_or(std::vector<Card>())) {
      if (card.version == version) return std::move(card);
    }
  }
  return fail({.code = Code::absent,
               .what = fmt::format("{} {} is not on the shelf", name, version),
               .file = shown(),
               .hint = "fibula shelf lists what is there"});
}

Result<void> Shelf::bring(const Card& card) const {
  for (const auto& place : places_) {
    if (place->served && place->holds(card.entry)) return place->served->bring(card);
  }
  return {};
}

namespace {

/// Every file against the list, and the list against the card. Errors: absent, malformed list.
Result<std::vector<Change>> changes_of(const Card& card) {
  constexpr const char* list = "contents.sha256";
  auto contents = read_contents(card.entry / list);
  if (!contents) return pass(contents);
  std::vector<Change> changes;
  if (digest_of(*contents) != card.digest)
    changes.push_back({list, "not the list that the card was written with", card.entry / list});
  for (const auto& content : *contents) {
    const auto digest = sha256_of_file(card.root / content.file);
    const fs::path file = card.root / content.file;
    if (!digest)
      changes.push_back({content.file, digest.error().code == Code::absent ? "missing" : "unreadable", file});
    if (digest && *digest != content.sha256)
      changes.push_back({content.file, card.in_place ? "changed" : "damaged", file});
  }
  return changes;
}

/// What was built of it, against the lists beside it. An outcome that somebody takes away meanwhile is no damage.
void add_built_changes(const Card& card, std::vector<Change>& changes) {
  const fs::path below = card.entry.parent_path().parent_path() / built_folder / card.name / card.version;
  for (const auto& key : folders_in(below)) {
    const auto list = read_digest_list(below / key / built_list, "");
    for (const auto& listed : list.value_or(DigestList())) {
      const fs::path file = below / key / listed.file;
      const auto digest = sha256_of_file(file);
      if (digest ? *digest == listed.sha256 : !stamp_of(below / key).there()) continue;
      changes.push_back({shown_from(below.parent_path().parent_path(), file), digest ? "damaged" : "missing", file});
    }
  }
}

}  // namespace

Result<std::optional<Card>> Shelf::built(const std::string& place) const {
  for (const auto& one : places_) {
    if (one->served) one->served->bring_built(place);
    if (auto card = read_built((one->served ? one->cache : one->folder) / place)) return card;
  }
  return std::optional<Card>();
}

Result<Published> Shelf::publish(const Card& card, const std::string& place) const {
  auto entry = publish_entry(card, place);
  if (!entry) return pass(entry);
  auto builds = publish_built(folder(), card.name, card.version, place);
  if (!builds) return pass(builds);
  return Published{*entry, *builds};
}

Result<Published> Shelf::publish_builds(const Card& card, const std::string& place) const {
  if (folders_in(folder() / built_folder / card.name / card.version).empty())
    return fail({.code = Code::absent,
                 .what = fmt::format("nothing was built of {} {} here", card.name, card.version),
                 .file = folder().string(),
                 .hint = "build a project that uses it; only what comes as source is built"});
  auto builds = publish_built(folder(), card.name, card.version, place);
  if (!builds) return pass(builds);
  return Published{false, *builds};
}

Result<std::vector<Change>> Shelf::check(const Card& card) const {
  if (auto here = bring(card); !here) return pass(here);
  Card now = card;
  // Somebody who writes to the shelf may exchange or drop the entry between two files of it: that is no damage.
  for (int tries = 0;; ++tries) {
    const Stamp before = stamp_of(card.entry / "card.toml");
    if (tries > 0) {
      auto read = read_card(card.entry);
      if (!read && read.error().code == Code::absent) return std::vector<Change>{};
      if (!read) return pass(read);
      now = std::move(*read);
    }
    auto changes = changes_of(now);
    if (changes && !now.in_place) add_built_changes(now, *changes);
    const bool good = changes && changes->empty();
    const bool same = tries > 0 && before.there() && stamp_of(card.entry / "card.toml") == before;
    if (good || same || tries > 20) return changes;
  }
}

Result<void> Shelf::drop(const std::string& name, const std::string& version) const {
  for (const auto& place : places_) {
    const fs::path entry = place->folder / name / version;
    // A link in its place leads to what is not the shelf's.
    const bool there = !place->served && Place::can_hold(name, version) &&
                       stamp_of_link(entry.parent_path()).is_folder() && stamp_of_link(entry).is_folder() &&
                       stamp_of_link(entry / "card.toml").is_file();
    if (!there) continue;
    auto dropped = remove_entry(place->folder, name, version);
    if (dropped) forget_uses(place->folder, name, version);
    return dropped;
  }
  return fail({.code = Code::refused,
               .what = fmt::format("{} {} is not on the shelf", name, version),
               .file = shown(),
               .hint = "fibula shelf lists what is there"});
}

void Shelf::note_use(const fs::path& entry, const fs::path& project) const {
  const std::string version = entry.filename().string(), name = entry.parent_path().filename().string();
  for (const auto& place : places_) {
    // A shelf inside the project is used by that project alone, and moves with it.
    if (!place->served && place->holds(entry) && !is_inside(project, place->folder))
      fibula::note_use(place->folder, name, version, project);
  }
}

std::vector<ShelfUse> Shelf::uses(const std::string& name, const std::string& version) const {
  for (const auto& place : places_) {
    if (place->served) continue;
    if (auto found = uses_of(place->folder, name, version); !found.empty()) return found;
  }
  return {};
}

}  // namespace fibula
