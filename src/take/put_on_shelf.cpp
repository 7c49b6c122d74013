#include "take/put_on_shelf.hpp"

#include "base/text.hpp"
#include "card/card_seal.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"
#include "shelf/contents.hpp"
#include "take/join.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Whether a link leads to something inside the folder.
bool stays_inside(const fs::path& folder, const fs::path& link) {
  std::error_code error;
  const fs::path root = fs::canonical(folder, error), real = fs::canonical(folder / link, error);
  return !error && is_inside(root, real);
}

/// Leaves nothing in a folder but these files, and links to folders of its own.
Result<void> keep_only(const fs::path& folder, const std::vector<std::string>& files) {
  const auto place = Folder::open(folder);
  if (!place) return fail(place.error());
  const auto found = files_below(folder);
  if (!found) return fail(found.error());
  const std::set<std::string> kept(files.begin(), files.end());
  std::error_code error;
  for (const auto& file : *found) {
    const bool is_link = fs::is_symlink(folder / file, error);
    const bool wanted = kept.contains(file.generic_string()) || fs::is_directory(folder / file, error);
    if (wanted && (!is_link || stays_inside(folder, file))) continue;
    if (auto removed = place->remove(file.generic_string()); !removed) return pass(removed);
  }
  return {};
}

/// Moves or copies the files to where they will stay.
Result<void> bring_in(const Arrival& arrival, const fs::path& files, const std::vector<std::string>& names) {
  if (!arrival.own) return copy_files(arrival.root, files, names);
  const auto entry = Folder::open(files.parent_path());
  if (!entry) return fail(entry.error());
  if (auto moved = entry->rename(inside_of(*entry, arrival.root), files.filename().string()); !moved) return moved;
  return keep_only(files, names);
}

/// A card that somebody corrected is not lost when its library is taken anew.
Result<void> keep_edited_card(const fs::path& before, const fs::path& entry, Taken& taken) {
  // It may be one that this version cannot read any more.
  auto text = read_text(before / "card.toml");
  if (!text || !was_edited(*text)) return {};
  taken.remarks.emplace_back("the card that was there is kept beside the new one as card.before.toml");
  return write_in(entry, "card.before.toml", *text, Flush::later);
}

/// What was described, digested and copied was read one after the other: it must have been the same all the time.
Result<void> check_unchanged(const fs::path& root, const std::vector<std::string>& files, int64_t began) {
  for (const auto& file : files) {
    const Stamp now = stamp_of(root / file);
    if (now.there() && now.changed < began) continue;
    return fail({.code = Code::refused,
                 .what = "was changed while it was taken",
                 .file = (root / file).string(),
                 .hint = "take it again when nobody writes to it; nothing was kept"});
  }
  return {};
}

}  // namespace

Result<void> write_and_publish(const DigestList& contents, ArrivingEntry& entry, bool replace, const Card& card) {
  if (auto written = write_in(entry.path(), "contents.sha256", to_text(contents), Flush::later); !written)
    return written;
  if (auto written = write_in(entry.path(), "card.toml", sealed_card(card_text(card)), Flush::later); !written)
    return written;
  // What nobody could read would break the shelf for everybody.
  if (const auto again = read_card(entry.path()); !again)
    return fail({.code = Code::refused,
                 .what = fmt::format("cannot be described so that the card can be read again: {}", again.error().what),
                 .file = card.origin.path,
                 .hint = "report this fault; nothing was kept"});
  return entry.publish(card, replace);
}

Result<void> put_on_shelf(const Shelf& shelf, const Arrival& arrival, const std::vector<std::string>& files,
                          Digests digests, ArrivingEntry& entry, const Taking& taking, Taken& taken) {
  const TakeRequest& request = taking.request;
  Card& card = taken.card;
  const fs::path place = entry.path() / "files";
  auto contents = digests.get();
  if (!contents) return pass(contents);
  if (!card.in_place) {
    if (auto brought = bring_in(arrival, place, files); !brought) return brought;
  }
  // What was unpacked here nobody else writes to.
  if (card.in_place || !arrival.own) {
    if (auto still = check_unchanged(arrival.root, files, taking.began); !still) return still;
  }
  if (auto removed = remove_tree_in(entry.path(), unpacked_name); !removed) return removed;
  card.digest = digest_of(*contents);
  const auto before = Shelf::at(shelf.folder()).card(card.name, card.version);
  taken.already_there =
      before && before->digest == card.digest && before->in_place == card.in_place && !request.replace;
  if (taken.already_there) return {};
  if (!card.in_place) {
    if (auto shared = entry.share(*contents); !shared) return shared;
  }
  if (request.replace) {
    if (auto kept = keep_edited_card(shelf.folder() / card.name / card.version, entry.path(), taken); !kept)
      return kept;
  }
  // What was trimmed for other lanes makes room for what serves these.
  const bool replace = request.replace || (request.variants && before);
  return write_and_publish(*contents, entry, replace, card);
}

Result<void> join_entry(const Shelf& shelf, const Arrival& arrival, const std::vector<std::string>& files,
                        ArrivingEntry& entry, const Taking& taking, Taken& taken) {
  const Card fresh = taken.card;
  const Shelf here = Shelf::at(shelf.folder());
  const auto known = here.card(fresh.name, fresh.version);
  if (!known) {
    const auto versions = here.versions(fresh.name);
    std::vector<std::string> there;
    for (const auto& card : versions.value_or(std::vector<Card>())) there.push_back(card.version);
    return fail({.code = Code::refused,
                 .what = fmt::format("is {} {}, and the shelf has {} to add it to", fresh.name, fresh.version,
                                     there.empty() ? "none" : "only " + text::join(there, ", ")),
                 .file = arrival.origin.path,
                 .hint = there.empty() ? "take it without --add" : "say which with --version, or leave --add out"});
  }
  auto joined = join(*known, fresh, arrival.root, files, entry.path() / "files");
  if (!joined) return pass(joined);
  if (!arrival.own) {
    if (auto still = check_unchanged(arrival.root, files, taking.began); !still) return still;
  }
  if (auto removed = remove_tree_in(entry.path(), unpacked_name); !removed) return removed;
  taken.card = std::move(joined->card);
  taken.remarks.insert(taken.remarks.end(), joined->remarks.begin(), joined->remarks.end());
  auto contents = digest_files(entry.path() / "files", joined->files);
  if (!contents) return pass(contents);
  taken.card.digest = digest_of(*contents);
  if (auto shared = entry.share(*contents); !shared) return shared;
  if (auto kept = keep_edited_card(known->entry, entry.path(), taken); !kept) return kept;
  return write_and_publish(*contents, entry, true, taken.card);
}

}  // namespace fibula
