#include "shelf/publish_entry.hpp"

#include "base/address.hpp"
#include "base/version.hpp"
#include "os/download.hpp"
#include "os/folder.hpp"
#include "os/process.hpp"
#include "os/upload.hpp"
#include "shelf/contents.hpp"
#include "shelf/index.hpp"
#include "shelf/served.hpp"
#include "shelf/storage.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <chrono>
#include <thread>

namespace fibula {
namespace {

constexpr uint64_t largest_index = 64U << 20U;

Error other_files(const Card& card, const std::string& where) {
  return without_secrets({.code = Code::refused,
                          .what = fmt::format("has {} {} already, with other files", card.name, card.version),
                          .file = where,
                          .hint = "publish it under another version: what others use does not change under them"});
}

Result<bool> publish_to_folder(const Card& card, const fs::path& shelf) {
  const auto there = read_card(shelf / card.name / card.version);
  if (there && there->digest == card.digest) return false;
  if (there) return fail(other_files(card, shelf.string()));
  const auto contents = read_contents(card.entry / "contents.sha256");
  if (!contents) return fail(contents.error());
  auto entry = ArrivingEntry::make(shelf);
  if (!entry) return pass(entry);
  std::vector<std::string> files;
  for (const auto& file : *contents) files.push_back(file.file);
  if (auto copied = copy_files(card.root, entry->path() / "files", files); !copied) return pass(copied);
  if (auto shared = entry->share(*contents); !shared) return pass(shared);
  const auto folder = Folder::open(entry->path());
  if (!folder) return fail(folder.error());
  for (const char* name : {"contents.sha256", "card.toml"}) {
    if (auto copied = folder->copy_in(card.entry / name, name); !copied) return pass(copied);
  }
  if (auto done = entry->publish(card, false); !done) return pass(done);
  return true;
}

/// Whether the server refuses what does not fit a condition: one that writes all the same could lose what another
/// publisher wrote.
Result<void> check_conditions(const std::string& url) {
  const std::string probe = fmt::format("{}/.probe-{}", url, process_number());
  auto first = put_text(probe, "fibula\n", {});
  if (!first) return pass(first);
  auto second = put_text(probe, "fibula\n", {PutCondition::When::still_this, "\"none\""});
  if (!second) return pass(second);
  if (*second == PutOutcome::changed) return {};
  return fail(without_secrets(
      {.code = Code::refused,
       .what = "its server writes without looking at If-Match, so two who publish at once could lose a library",
       .file = url,
       .hint = "publish to the folder that it gives out, where that can be reached: fibula shelf publish NAME --to "
               "FOLDER"}));
}

void put_line(std::vector<IndexLine>& lines, const IndexLine& line) {
  const auto behind = std::find_if(lines.begin(), lines.end(), [&](const IndexLine& other) {
    return other.name > line.name || (other.name == line.name && compare_versions(other.version, line.version) < 0);
  });
  lines.insert(behind, line);
}

/// What a server's index has of a library, and what it would be with one line more.
struct ServedIndex {
  ServedText top;
  std::vector<IndexPart> parts;
  std::vector<IndexLine> lines;  ///< of the library's part
};

Result<ServedIndex> fetch_index(const std::string& url, const std::string& library) {
  const std::string index = url + "/shelf.index";
  auto top = fetch_text(index, largest_index);
  if (!top) return pass(top);
  ServedIndex served{.top = std::move(*top)};
  if (!served.top.there) return served;
  auto parts = parse_index(served.top.text, without_secrets(index));
  if (!parts) return pass(parts);
  served.parts = std::move(*parts);
  for (const auto& part : served.parts) {
    if (part.name != part_of(library)) continue;
    auto text = fetch_text(url + "/" + part_file(part), largest_index);
    if (!text) return pass(text);
    auto lines = parse_part(text->text, without_secrets(url) + "/" + part_file(part));
    if (!lines) return pass(lines);
    served.lines = std::move(*lines);
  }
  return served;
}

const IndexLine* line_in(const ServedIndex& served, const Card& card) {
  for (const auto& line : served.lines) {
    if (line.name == card.name && line.version == card.version) return &line;
  }
  return nullptr;
}

/// True: written. False: somebody else was faster. The part has a name of its own; that the index names it is what
/// only one can do at a time.
Result<bool> add_to_index(const std::string& url, const IndexLine& line, const Card& card, bool& there) {
  auto served = fetch_index(url, line.name);
  if (!served) return pass(served);
  if (const IndexLine* other = line_in(*served, card)) {
    there = true;
    if (other->contents_sha256 == line.contents_sha256) return true;
    return fail(other_files(card, url));
  }
  put_line(served->lines, line);
  const std::string text = part_text(served->lines);
  const IndexPart part = described_part(part_of(line.name), text);
  if (auto put = put_text(url + "/" + part_file(part), text, {}); !put) return pass(put);
  const PutCondition condition = served->top.there ? PutCondition{PutCondition::When::still_this, served->top.validator}
                                                   : PutCondition{PutCondition::When::not_there};
  auto done = put_text(url + "/shelf.index", index_text(with_part(served->parts, part)), condition);
  if (!done) return pass(done);
  return *done == PutOutcome::taken;
}

Result<void> put_files(const std::string& url, const Card& card) {
  const auto contents = read_contents(card.entry / "contents.sha256");
  if (!contents) return fail(contents.error());
  const std::string entry = fmt::format("{}/{}/{}", url, url_path(card.name), url_path(card.version));
  for (const auto& file : *contents) {
    auto done = put_file(fmt::format("{}/files/{}", entry, url_path(file.file)), card.root / file.file, {});
    if (!done) return pass(done);
  }
  for (const char* name : {"contents.sha256", "card.toml"}) {
    auto done = put_file(fmt::format("{}/{}", entry, name), card.entry / name, {});
    if (!done) return pass(done);
  }
  return {};
}

/// Whether the index has the line now: a server that says yes and keeps nothing is found out.
Result<bool> is_listed(const std::string& url, const Card& card) {
  const auto served = fetch_index(url, card.name);
  if (!served) return fail(served.error());
  return line_in(*served, card) != nullptr;
}

Result<bool> publish_to_server(const Card& card, const std::string& url) {
  if (auto good = check_conditions(url); !good) return pass(good);
  const auto line = index_line_of(card.entry);
  if (!line) return fail(line.error());
  // An entry that is there under this version is not written over: its files are in use.
  const auto served = fetch_index(url, card.name);
  if (!served) return fail(served.error());
  if (const IndexLine* other = line_in(*served, card)) {
    if (other->contents_sha256 == line->contents_sha256) return false;
    return fail(other_files(card, url));
  }
  if (auto put = put_files(url, card); !put) return pass(put);
  constexpr int most_tries = 100;
  for (int tries = 0; tries < most_tries; ++tries) {
    bool there = false;
    auto added = add_to_index(url, *line, card, there);
    if (!added) return pass(added);
    if (there) return false;
    if (*added) {
      auto listed = is_listed(url, card);
      if (!listed || *listed) return listed;
    }
    // Others publish too: each waits a while of its own.
    std::this_thread::sleep_for(std::chrono::milliseconds(10 + (process_number() * 7 + tries * 13) % 60));
  }
  return fail(without_secrets({.code = Code::unreadable,
                               .what = fmt::format("did not keep the line of {} {}", card.name, card.version),
                               .file = url + "/shelf.index",
                               .hint = "look at the server: it takes files and does not have them afterwards"}));
}

}  // namespace

Result<bool> publish_entry(const Card& card, const std::string& place) {
  if (card.in_place)
    return fail(
        {.code = Code::refused,
         .what = fmt::format("{} {} lies in {} and not on the shelf", card.name, card.version, card.root.string()),
         .hint = "take it without --in-place, and publish that"});
  if (is_url(place)) return publish_to_server(card, place.substr(0, place.find_last_not_of('/') + 1));
  return publish_to_folder(card, absolute_path(place));
}

}  // namespace fibula
