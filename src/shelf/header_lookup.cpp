#include "shelf/header_lookup.hpp"

#include "base/text.hpp"
#include "shelf/known_parts.hpp"

#include <map>
#include <set>

namespace fibula {
namespace {

// library: with the cards that it had. header: the last part of a name.
constexpr const char* schema = FIBULA_TABLE_OF_PARTS
    "CREATE TABLE IF NOT EXISTS library(id INTEGER PRIMARY KEY, shelf TEXT, part TEXT, name TEXT, cards TEXT);"
    "CREATE INDEX IF NOT EXISTS library_part ON library(shelf, part);"
    "CREATE TABLE IF NOT EXISTS header(name TEXT, library INT);"
    "CREATE INDEX IF NOT EXISTS header_name ON header(name);"
    "CREATE INDEX IF NOT EXISTS header_library ON header(library);";

std::string last_part(const std::string& name) {
  return text::lower(name.substr(name.find_last_of("/\\") + 1));
}

class HeaderLookup {
 public:
  static Result<HeaderLookup> open(const Cache& cache) {
    if (cache.folder().empty()) return fail({.code = Code::absent, .what = "nothing is kept"});
    auto database = Database::kept(cache, "headers-1.sqlite", schema);
    if (!database) return pass(database);
    return HeaderLookup(std::move(*database));
  }

  /// `shelf`: one place. What it has is kept for it alone: which others are asked beside it differs from call to call.
  Result<void> bring_up_to_date(const Shelf& shelf, const std::vector<ShelfPart>& parts) {
    const std::string place = shelf.shown();
    const auto changed = changed_parts(database_, place, parts);
    if (!changed) return fail(changed.error());
    if (changed->empty()) return {};
    return database_.together([&]() -> Result<void> {
      for (const auto* part : *changed) {
        if (auto read = read_part(shelf, *part); !read) return read;
      }
      return {};
    });
  }

  Result<void> find(const Shelf& shelf, const std::vector<std::string>& included, std::set<std::string>& names) {
    auto found = database_.prepare(
        "SELECT library.name FROM header JOIN library ON library.id = library WHERE header.name = ? AND shelf = ?");
    if (!found) return pass(found);
    const std::string place = shelf.shown();
    for (const auto& header : included) {
      const std::string name = last_part(header);
      found->text(1, name).text(2, place);
      while (found->step()) names.insert(found->text_of(0));
      found->again();
    }
    return {};
  }

 private:
  explicit HeaderLookup(Database database) : database_(std::move(database)) {}

  Result<void> read_part(const Shelf& shelf, const ShelfPart& part) {
    const std::string place = shelf.shown();
    auto lines = shelf.list_part(part);
    if (!lines) return pass(lines);
    std::map<std::string, std::string> cards;
    for (const auto& line : *lines) cards[line.name] += line.version + ":" + line.card + ";";
    std::vector<std::pair<int64_t, std::string>> old;
    auto known = database_.prepare("SELECT id, name, cards FROM library WHERE shelf = ? AND part = ?");
    if (!known) return pass(known);
    known->text(1, place).text(2, part.name);
    while (known->step()) {
      const auto now = cards.find(known->text_of(1));
      if (now != cards.end() && now->second == known->text_of(2)) {
        cards.erase(now);
      } else {
        old.emplace_back(known->number_of(0), known->text_of(1));
      }
    }
    for (const auto& [id, name] : old) {
      if (auto gone = forget(id); !gone) return gone;
    }
    for (const auto& [name, state] : cards) {
      if (auto added = add(shelf, part, name, state); !added) return added;
    }
    return note_part(database_, place, part);
  }

  Result<void> forget(int64_t library) {
    for (const char* sql : {"DELETE FROM header WHERE library = ?", "DELETE FROM library WHERE id = ?"}) {
      auto done = database_.prepare(sql);
      if (!done) return pass(done);
      done->number(1, library).step();
    }
    return {};
  }

  Result<void> add(const Shelf& shelf, const ShelfPart& part, const std::string& name, const std::string& state) {
    // A card that cannot be read has no headers that are known; whoever uses it is told.
    const auto versions = shelf.versions(name);
    std::set<std::string> headers;
    for (const auto& card : versions ? *versions : std::vector<Card>()) {
      for (const auto& header : card.public_headers) headers.insert(last_part(header));
    }
    auto put = database_.prepare("INSERT INTO library(shelf, part, name, cards) VALUES(?, ?, ?, ?)");
    auto put_header = database_.prepare("INSERT INTO header(name, library) VALUES(?, ?)");
    if (!put) return pass(put);
    if (!put_header) return pass(put_header);
    const std::string place = shelf.shown();
    put->text(1, place).text(2, part.name).text(3, name).text(4, state).step();
    const int64_t id = database_.last_row();
    for (const auto& header : headers) {
      put_header->text(1, header).number(2, id).step();
      put_header->again();
    }
    return {};
  }

  Database database_;
};

/// Adds what one place has; false where its cards must be read.
bool look_up(const Shelf& place, const Cache& cache, const std::vector<std::string>& included,
             std::set<std::string>& names) {
  const auto parts = place.parts();
  if (!parts || is_small(*parts)) return false;
  auto lookup = HeaderLookup::open(cache);
  return lookup && lookup->bring_up_to_date(place, *parts) && lookup->find(place, included, names);
}

}  // namespace

bool is_small(const std::vector<ShelfPart>& parts) {
  constexpr size_t parts_of_small_shelf = 128;
  return parts.size() < parts_of_small_shelf;
}

std::vector<std::string> libraries_to_ask(const Shelf& shelf, const Cache& cache,
                                          const std::vector<std::string>& included) {
  std::set<std::string> names;
  for (const auto& place : shelf.places()) {
    if (look_up(place, cache, included, names)) continue;
    for (auto& name : place.names()) names.insert(std::move(name));
  }
  return {names.begin(), names.end()};
}

}  // namespace fibula
