/// The index of names over a shelf: what its parts tell, so that nothing of a large one is looked at that did not
/// change.
#include "index/shelf_names.hpp"

#include "os/files.hpp"
#include "shelf/header_lookup.hpp"
#include "shelf/known_parts.hpp"

#include <map>

namespace fibula {
namespace {

/// What a line of a shelf's index says of a version: while it says so, its files are the same.
std::string state_of(const std::string& library, const std::string& version, const std::string& card) {
  return library + "/" + version + ":" + card;
}

}  // namespace

IndexedPlace place_of_card(const Card& card) {
  IndexedPlace place{.folder = card.root, .library = card.name, .deep = true};
  if (!card.in_place) return place;
  // What else lies there belongs to others.
  std::set<fs::path> files;
  const auto add = [&](const std::vector<std::string>& names) {
    for (const auto& name : names) files.insert(card.root / name);
  };
  add(card.public_headers);
  for (const auto& variant : card.variants) {
    add(variant.link);
    add(variant.runtime);
  }
  place.files.assign(files.begin(), files.end());
  return place;
}

Result<void> NameIndex::bring_up_to_date(const Shelf& shelf, const std::vector<ShelfPart>& parts) {
  const auto changed = changed_parts(database_, shelf.shown(), parts);
  if (!changed) return fail(changed.error());
  if (!changed->empty()) {
    auto done = database_.together([&]() -> Result<void> {
      for (const auto* part : *changed) {
        if (auto read = read_part(shelf, *part); !read) return read;
      }
      return {};
    });
    if (!done) return done;
  }
  return look_at_open_ones(shelf);
}

/// Libraries that are used where they lie change without the shelf.
Result<void> NameIndex::look_at_open_ones(const Shelf& shelf) {
  auto open = database_.prepare("SELECT DISTINCT library, part FROM place WHERE shelf = ? AND open = 1");
  auto known = database_.prepare("SELECT 1 FROM place WHERE folder = ? AND shelf = ? AND state = ?");
  if (!open) return pass(open);
  if (!known) return pass(known);
  const std::string where = shelf.shown();
  std::vector<std::pair<std::string, std::string>> libraries;
  open->text(1, where);
  while (open->step()) libraries.emplace_back(open->text_of(0), open->text_of(1));
  std::vector<IndexedPlace> changed;
  for (const auto& [library, part] : libraries) {
    const auto versions = shelf.versions(library);
    for (const auto& card : versions ? *versions : std::vector<Card>()) {
      if (!card.in_place) continue;
      IndexedPlace place = place_of_card(card);
      place.shelf = where;
      place.part = part;
      const std::string folder = place.folder.string(), stamps = stamps_of(place);
      known->text(1, folder).text(2, where).text(3, stamps);
      if (!known->step()) changed.push_back(std::move(place));
      known->again();
    }
  }
  std::vector<const IndexedPlace*> all;
  for (const auto& place : changed) all.push_back(&place);
  return read_all(all);
}

Result<void> NameIndex::read_part(const Shelf& shelf, const ShelfPart& part) {
  auto lines = shelf.list_part(part);
  if (!lines) return pass(lines);
  std::set<std::string> states, in_place, libraries;
  std::map<std::string, std::string> library_of;
  for (const auto& line : *lines) {
    if (!line.in_place.empty()) {
      in_place.insert(line.name);
    } else {
      library_of[state_of(line.name, line.version, line.card)] = line.name;
    }
  }
  auto known = database_.prepare("SELECT id, state, library, open FROM place WHERE shelf = ? AND part = ?");
  if (!known) return pass(known);
  const std::string where = shelf.shown();
  std::vector<int64_t> gone;
  known->text(1, where).text(2, part.name);
  while (known->step()) {
    const bool there =
        known->number_of(3) == 1 ? in_place.contains(known->text_of(2)) : library_of.erase(known->text_of(1)) > 0;
    if (!there) gone.push_back(known->number_of(0));
  }
  for (const int64_t id : gone) {
    if (auto done = forget_place(id); !done) return done;
  }
  for (const auto& [state, library] : library_of) {
    states.insert(state);
    libraries.insert(library);
  }
  libraries.merge(in_place);
  if (auto read = read_entries(shelf, part, libraries, states); !read) return read;
  return note_part(database_, where, part);
}

Result<void> NameIndex::read_entries(const Shelf& shelf, const ShelfPart& part, const std::set<std::string>& libraries,
                                     const std::set<std::string>& states) {
  for (const auto& library : libraries) {
    // A card that cannot be read has no names that are known; whoever uses it is told.
    const auto versions = shelf.versions(library);
    for (const auto& card : versions ? *versions : std::vector<Card>()) {
      IndexedPlace place = place_of_card(card);
      place.shelf = shelf.shown();
      place.part = part.name;
      if (!card.in_place) {
        const std::string begin = state_of(card.name, card.version, {});
        const auto state = states.lower_bound(begin);
        if (state == states.end() || !state->starts_with(begin)) continue;
        place.state = *state;
      }
      if (auto read = read_place(place); !read) return read;
    }
  }
  return {};
}

Result<void> NameIndex::forget_place(int64_t place) {
  for (const char* sql : {"DELETE FROM name WHERE file IN (SELECT id FROM file WHERE place = ?)",
                          "DELETE FROM file WHERE place = ?", "DELETE FROM place WHERE id = ?"}) {
    auto done = database_.prepare(sql);
    if (!done) return pass(done);
    done->number(1, place).step();
  }
  return {};
}

std::optional<std::vector<ShelfPart>> parts_to_index(const Shelf& place) {
  if (place.folder().empty()) return std::nullopt;
  auto parts = place.parts();
  return parts && !is_small(*parts) ? std::optional(std::move(*parts)) : std::nullopt;
}

namespace {

std::vector<std::string> libraries_having(const Shelf& shelf, const Cache& cache, const std::vector<std::string>& names,
                                          HitRole role) {
  std::set<std::string> libraries;
  const auto ask = [&](const Shelf& place) {
    const auto parts = cache.folder().empty() ? std::nullopt : parts_to_index(place);
    auto index = parts ? NameIndex::open(cache) : Result<NameIndex>(fail({}));
    if (!index || !index->bring_up_to_date(place, *parts)) return false;
    for (const auto& name : names) {
      auto found = index->libraries_with(name, role, place.shown());
      if (!found) return false;
      libraries.insert(found->begin(), found->end());
    }
    return true;
  };
  for (const auto& place : shelf.places()) {
    if (ask(place)) continue;
    for (auto& name : place.names()) libraries.insert(std::move(name));
  }
  return {libraries.begin(), libraries.end()};
}

}  // namespace

std::vector<std::string> libraries_defining(const Shelf& shelf, const Cache& cache,
                                            const std::vector<std::string>& symbols) {
  return libraries_having(shelf, cache, symbols, HitRole::defines);
}

std::vector<std::string> libraries_with_file(const Shelf& shelf, const Cache& cache,
                                             const std::vector<std::string>& names) {
  return libraries_having(shelf, cache, names, HitRole::declares);
}

}  // namespace fibula
