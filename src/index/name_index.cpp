#include "index/name_index.hpp"

#include "base/text.hpp"
#include "facts/mangling.hpp"
#include "headers/declarations.hpp"
#include "headers/header_folders.hpp"
#include "os/files.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/stamp.hpp"
#include "shelf/known_parts.hpp"

#include <fibula/facts.hpp>
#include <fibula/symbols.hpp>

#include <algorithm>
#include <map>
#include <set>

namespace fibula {
namespace {

// place: a folder with the stamps of all folders below it that were read, as one text, or what a shelf's index says of
// it. file: a file of a place. name: what it has; `plain` is the last part of a C++ name, which people type.
constexpr const char* schema =
    "CREATE TABLE IF NOT EXISTS place(id INTEGER PRIMARY KEY, folder TEXT, shelf TEXT, part TEXT, open INT, state "
    "TEXT, library TEXT, UNIQUE(folder, shelf));"
    "CREATE INDEX IF NOT EXISTS place_part ON place(shelf, part);"
    "CREATE INDEX IF NOT EXISTS open_place ON place(shelf) WHERE open = 1;" FIBULA_TABLE_OF_PARTS
    "CREATE TABLE IF NOT EXISTS file(id INTEGER PRIMARY KEY, place INT, path TEXT, stamp TEXT);"
    "CREATE INDEX IF NOT EXISTS file_place ON file(place);"
    "CREATE TABLE IF NOT EXISTS name(name TEXT, plain TEXT, file INT, role INT, member TEXT);"
    "CREATE INDEX IF NOT EXISTS by_name ON name(name);"
    "CREATE INDEX IF NOT EXISTS by_plain ON name(plain) WHERE plain IS NOT NULL;"
    "CREATE INDEX IF NOT EXISTS by_file ON name(file);";

std::vector<fs::path> files_of(const IndexedPlace& place) {
  if (!place.files.empty()) return place.files;
  std::vector<fs::path> files;
  if (place.deep) {
    const auto below = files_below(place.folder);
    for (const auto& file : below ? *below : std::vector<fs::path>()) files.push_back(place.folder / file);
  } else {
    for (const auto& file : files_directly_in(place.folder)) files.push_back(place.folder / file);
  }
  std::erase_if(files, [](const fs::path& file) {
    const std::string ending = file.extension().string();
    return !has_library_name(file) && !is_header_name(file.filename().string()) && ending != ".o" && ending != ".obj";
  });
  return files;
}

/// `height` of `_ZN4tide6heightEi`; empty for names that are not mangled.
std::string plain_part(std::string_view symbol) {
  const std::string whole = readable_name(symbol);
  if (whole == symbol) return {};
  const std::string name = without_parameters(whole);
  const size_t colons = name.rfind("::");
  return colons == std::string::npos ? name : name.substr(colons + 2);
}

/// The same of a name as people write it, with or without parameters.
std::string plain_part_of_readable(const std::string& name) {
  const std::string readable = name.substr(0, name.find('('));
  const size_t colons = readable.rfind("::");
  return colons == std::string::npos ? readable : readable.substr(colons + 2);
}

/// Whether a C++ name with its namespaces is what was asked for, with or without its parameters.
bool reads_as(const std::string& symbol, const std::string& asked) {
  const std::string whole = readable_name(symbol);
  if (asked.find('(') != std::string::npos) return whole == asked;
  return text::matches(asked, without_parameters(whole));
}

bool has_pattern(std::string_view name) {
  return name.find_first_of("*?") != std::string_view::npos;
}

}  // namespace

std::string stamps_of(const IndexedPlace& place) {
  if (!place.state.empty()) return place.state;
  if (!place.files.empty()) {
    std::string all;
    for (const auto& file : place.files) all += to_text(stamp_of(file)) + "\n";
    return all;
  }
  std::string all = to_text(stamp_of(place.folder));
  if (!place.deep) return all;
  std::error_code error;
  std::vector<fs::path> folders;
  for (fs::recursive_directory_iterator it(place.folder, fs::directory_options::skip_permission_denied, error), end;
       !error && it != end; it.increment(error)) {
    std::error_code ignored;
    if (it->is_directory(ignored) && !it->is_symlink(ignored)) folders.push_back(it->path());
  }
  std::sort(folders.begin(), folders.end());
  for (const auto& folder : folders) all += "\n" + to_text(stamp_of(folder));
  return all;
}

Result<NameIndex> NameIndex::open(const Cache& cache) {
  auto database = Database::kept(cache, "names-3.sqlite", schema);
  if (!database) return pass(database);
  return NameIndex(std::move(*database));
}

Result<void> NameIndex::bring_up_to_date(const std::vector<IndexedPlace>& places) {
  std::vector<const IndexedPlace*> changed;
  auto known = database_.prepare("SELECT state FROM place WHERE folder = ? AND shelf = ''");
  if (!known) return pass(known);
  for (const auto& place : places) {
    const std::string folder = place.folder.string(), stamps = stamps_of(place);
    known->text(1, folder);
    const bool current = known->step() && known->text_of(0) == stamps;
    known->again();
    if (!current) changed.push_back(&place);
  }
  return read_all(changed);
}

Result<void> NameIndex::read_all(const std::vector<const IndexedPlace*>& places) {
  return places.empty() ? Result<void>() : database_.together([&]() -> Result<void> {
    for (const auto* place : places) {
      if (auto read = read_place(*place); !read) return read;
    }
    return {};
  });
}

Result<void> NameIndex::read_place(const IndexedPlace& place) {
  const std::string folder = place.folder.string(), stamps = stamps_of(place);
  auto put = database_.prepare(
      "INSERT INTO place(folder, state, library, shelf, part, open) VALUES(?, ?, ?, ?, ?, ?) ON CONFLICT(folder, "
      "shelf) DO "
      "UPDATE SET state = excluded.state, library = excluded.library, part = excluded.part RETURNING id");
  if (!put) return pass(put);
  put->text(1, folder)
      .text(2, stamps)
      .text(3, place.library)
      .text(4, place.shelf)
      .text(5, place.part)
      .number(6, place.files.empty() ? 0 : 1);
  if (!put->step()) return fail({.code = Code::io, .what = "the index of names cannot be written", .file = folder});
  const int64_t id = put->number_of(0);
  put->again();
  std::map<std::string, std::pair<int64_t, std::string>> old;
  auto files = database_.prepare("SELECT id, path, stamp FROM file WHERE place = ?");
  if (!files) return pass(files);
  files->number(1, id);
  while (files->step()) old[files->text_of(1)] = {files->number_of(0), files->text_of(2)};
  auto forget = database_.prepare("DELETE FROM file WHERE id = ?");
  auto forget_names = database_.prepare("DELETE FROM name WHERE file = ?");
  if (!forget || !forget_names) return fail({.code = Code::io, .what = "the index of names cannot be written"});
  const auto drop = [&](int64_t file) {
    forget->number(1, file).step();
    forget->again();
    forget_names->number(1, file).step();
    forget_names->again();
  };
  for (const auto& file : files_of(place)) {
    const std::string stamp = to_text(stamp_of(file));
    const auto known = old.find(file.string());
    const bool same = known != old.end() && known->second.second == stamp;
    if (known != old.end() && !same) drop(known->second.first);
    if (known != old.end()) old.erase(known);
    if (same) continue;
    if (auto read = read_file(file, id, stamp, place.only_file_names); !read) return read;
  }
  for (const auto& [path, file] : old) drop(file.first);
  return {};
}

Result<void> NameIndex::read_file(const fs::path& file, int64_t place, const std::string& stamp, bool only_name) {
  auto put = database_.prepare("INSERT INTO file(place, path, stamp) VALUES(?, ?, ?)");
  auto put_name =
      database_.prepare("INSERT INTO name(name, plain, file, role, member) VALUES(?, NULLIF(?, ''), ?, ?, ?)");
  if (!put) return pass(put);
  if (!put_name) return pass(put_name);
  const std::string path = file.string(), file_name = file.filename().string();
  put->number(1, place).text(2, path).text(3, stamp).step();
  const int64_t id = database_.last_row();
  const auto add = [&](std::string_view name, std::string_view plain, HitRole role, std::string_view member) {
    put_name->text(1, name).text(2, plain).number(3, id).number(4, static_cast<int>(role)).text(5, member).step();
    put_name->again();
  };
  // Windows takes its files' names in whatever letters.
  const std::string lower = text::lower(file_name);
  add(file_name, lower == file_name ? std::string() : lower, HitRole::declares, {});
  // Under its other names a library is the same file.
  std::error_code ignored;
  if (only_name || fs::is_symlink(file, ignored)) return {};
  if (is_header_name(file_name)) {
    const auto text = read_text(file, 8U << 20U);
    for (const auto& function : text ? functions_left_to_a_binary(*text) : std::vector<std::string>())
      add(function, {}, HitRole::declares, {});
    return {};
  }
  std::set<std::string, std::less<>> seen;
  const auto visited = visit_symbols(file, [&](const SymbolView& symbol) {
    const auto role = symbol.defines ? HitRole::defines : HitRole::needs;
    const std::string key = std::string(symbol.name) + (symbol.defines ? "d" : "n") + std::string(symbol.member);
    if (seen.insert(key).second) add(symbol.name, plain_part(symbol.name), role, symbol.member);
  });
  // What cannot be read as a library has no names.
  (void)visited.has_value();
  return {};
}

Result<std::vector<Hit>> NameIndex::find(const std::string& name, const std::vector<IndexedPlace>& places,
                                         const std::vector<std::string>& shelves, size_t most) {
  const bool pattern = has_pattern(name);
  const std::string plain = plain_part_of_readable(name);
  const bool qualified = name.substr(0, name.find('(')).find("::") != std::string::npos;
  const char* sql = pattern ? "SELECT name.name, role, member, path, library, folder, shelf FROM name JOIN file ON "
                              "file.id = file JOIN place ON "
                              "place.id = place WHERE name GLOB ?1 OR plain GLOB ?2 LIMIT ?3"
                            : "SELECT name.name, role, member, path, library, folder, shelf FROM name JOIN file ON "
                              "file.id = file JOIN place ON "
                              "place.id = place WHERE name.name = ?1 OR plain = ?2 LIMIT ?3";
  auto found = database_.prepare(sql);
  if (!found) return pass(found);
  found->text(1, name).text(2, plain).number(3, static_cast<int64_t>(most * 20));
  std::set<std::string, std::less<>> wanted;
  for (const auto& place : places) wanted.insert(place.folder.string());
  std::vector<Hit> hits;
  while (found->step() && hits.size() < most) {
    Hit hit{.path = found->text_of(3),
            .member = found->text_of(2),
            .library = found->text_of(4),
            .role = static_cast<HitRole>(found->number_of(1)),
            .name = found->text_of(0)};
    const std::string shelf = found->text_of(6);
    const bool there = shelf.empty() ? wanted.contains(found->text_of(5))
                                     : std::find(shelves.begin(), shelves.end(), shelf) != shelves.end();
    if (!there) continue;
    if (qualified && hit.name != name && !reads_as(hit.name, name)) continue;
    hits.push_back(std::move(hit));
  }
  return hits;
}

Result<std::vector<std::string>> NameIndex::libraries_with(const std::string& name, HitRole role,
                                                           const std::string& shelf) {
  auto found = database_.prepare(
      // By the name first: `+` keeps the shelf's many places from being gone through.
      "SELECT DISTINCT library FROM name JOIN file ON file.id = file JOIN place ON place.id = place WHERE (name.name = "
      "?1 OR plain = ?2) AND role = ?3 AND +shelf = ?4");
  if (!found) return pass(found);
  const std::string plain = plain_part_of_readable(name);
  found->text(1, name).text(2, plain).number(3, static_cast<int>(role)).text(4, shelf);
  std::vector<std::string> libraries;
  while (found->step()) libraries.push_back(found->text_of(0));
  return libraries;
}

}  // namespace fibula
