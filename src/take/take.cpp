#include <fibula/take.hpp>

#include "base/address.hpp"
#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "facts/library_name.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/stamp.hpp"
#include "shelf/contents.hpp"
#include "take/arrival.hpp"
#include "take/completeness.hpp"
#include "take/folder_oddities.hpp"
#include "take/licence.hpp"
#include "take/lost_names.hpp"
#include "take/name_and_version.hpp"
#include "take/naming.hpp"
#include "take/parcel_form.hpp"
#include "take/put_on_shelf.hpp"
#include "take/source.hpp"
#include "take/sources/public_headers.hpp"
#include "take/trim.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Every file that the card stands for, libraries under all their names.
std::vector<std::string> files_of(const Source& source, const std::vector<Variant>& variants) {
  std::set<std::string> files(source.headers.begin(), source.headers.end());
  files.insert(source.goes_along.begin(), source.goes_along.end());
  std::error_code error;
  const fs::path root = fs::canonical(source.root, error);
  for (const auto& binary : source.binaries) {
    files.insert(binary.file);
    const fs::path real = fs::canonical(source.root / binary.file, error);
    if (!error && is_inside(root, real)) files.insert(shown_from(root, real));
  }
  for (const auto& variant : variants) files.insert(variant.runtime.begin(), variant.runtime.end());
  std::erase_if(files, [](const std::string& file) { return fs::path(file).is_absolute(); });
  return {files.begin(), files.end()};
}

Result<Source> read_source(const Arrival& arrival, const TakeRequest& request) {
  auto source =
      request.library.empty() ? source_in_folder(arrival.root) : source_in_prefix(arrival.root, request.library);
  if (!source) return source;
  source->called = arrival.called;
  if (!arrival.package.empty()) {
    source->package = arrival.package;
    source->package_version = arrival.package_version;
  }
  const bool from_source = source->binaries.empty() && !source->code.empty();
  if (from_source) {
    leave_out_one_systems_headers(*source);
    leave_out_program_headers(*source);
  }
  const std::string name = guessed_name(*source, request);
  settle_headers(*source, name);
  if (from_source) narrow_headers(*source, name);
  return source;
}

Result<Card> describe(Source& source, std::vector<Variant> variants, const Arrival& arrival, const TakeRequest& request,
                      const Shelf& shelf) {
  Card card;
  if (source.binaries.empty() && !request.headers_only) card.source = code_to_compile(source);
  if (auto complete = check_complete(source, card.source, arrival.origin.path, request); !complete)
    return pass(complete);
  if (auto named = name_it(source, arrival, request, card); !named) return pass(named);
  const auto licence = licence_of(source);
  card.licence = licence.expression;
  card.licence_from = licence.from;
  card.origin = arrival.origin;
  if (request.portable && fs::path(card.origin.path).is_absolute()) card.origin.path = arrival.called;
  card.in_place = request.in_place;
  card.include_directories = source.directories;
  card.public_headers = source.headers;
  card.variants = std::move(variants);
  card.files = source.files;
  add_import_definitions(source, card.variants);
  add_debug_files(source, card.variants);
  part_include_directories(card);
  const auto joins = request.add ? Shelf::at(shelf.folder()).card(card.name, card.version) : Result<Card>(fail({}));
  card.requirements = requirements_of(source, card, joins ? &*joins : nullptr, shelf);
  return card;
}

/// Where files are unpacked: beside their place on the shelf, or out of the way when nothing is to be written.
struct Workshop {
  std::optional<ArrivingEntry> entry;
  std::optional<TemporaryFolder> folder;

  static Result<Workshop> make(const Shelf& shelf, bool dry_run) {
    Workshop workshop;
    if (dry_run) {
      auto folder = TemporaryFolder::make(temporary_place(), "fibula-");
      if (!folder) return pass(folder);
      workshop.folder.emplace(std::move(*folder));
      return workshop;
    }
    auto entry = ArrivingEntry::make(shelf.folder());
    if (!entry) return pass(entry);
    workshop.entry.emplace(std::move(*entry));
    return workshop;
  }
  const fs::path& path() const { return entry ? entry->path() : folder->path(); }
};

/// A link in a prefix can lead out of it: /usr/lib to /lib on systems that keep the two apart. Cards name nothing
/// outside.
Result<void> check_inside(const Source& source, const std::vector<Variant>& variants) {
  for (const auto& variant : variants) {
    for (const auto& file : variant.runtime) {
      if (!fs::path(file).is_absolute()) continue;
      return fail(
          {.code = Code::refused,
           .what = fmt::format("is the run-time file of a library in {}, and lies outside of it", source.root.string()),
           .file = file,
           .hint = "make the folder that it is in part of the prefix, with a link or a copy"});
    }
  }
  return {};
}

/// Lists and cards hold a name a line, in UTF-8.
Result<void> check_names(const Source& source, const std::vector<std::string>& files) {
  for (const auto& file : files) {
    if (InsidePath::of(file)) continue;
    return fail({.code = Code::refused,
                 .what = fmt::format("cannot be kept on a shelf: its name {}", InsidePath::why_not(file)),
                 .file = (source.root / file).string(),
                 .hint = "rename it, or remove it from what is taken"});
  }
  return {};
}

/// What a person would stumble over, as `inspect` tells it.
void tell_oddities(Source& source) {
  if (source.from_prefix) return;
  FolderView view;
  std::error_code ignored;
  for (const auto& binary : source.binaries) {
    const bool is_link = fs::is_symlink(source.root / binary.file, ignored);
    if (is_link) continue;
    view.binaries.push_back({.path = binary.file, .facts = binary.facts});
    view.binaries.back().facts.notes.clear();  // told when it was read
  }
  for (const auto& binary : source.binaries) {
    const fs::path path = source.root / binary.file;
    if (!fs::is_symlink(path, ignored)) continue;
    const std::string real = shown_from(fs::canonical(source.root, ignored), fs::canonical(path, ignored));
    for (auto& other : view.binaries) {
      if (other.path == real) other.links.push_back(path.filename().string());
    }
  }
  // What no linker takes may still be what an import library stands for.
  const std::set<std::string> opened(source.opened_only.begin(), source.opened_only.end());
  for (const auto& file : opened) {
    if (auto facts = inspect(source.root / file)) view.binaries.push_back({.path = file, .facts = std::move(*facts)});
  }
  relate(view);
  std::erase_if(view.odd, [&](const Oddity& oddity) { return opened.contains(oddity.file); });
  for (const auto& [file, what] : view.odd) source.remarks.push_back(fmt::format("{} {}", file, what));
}

/// An entry of another shelf or of a parcel, with its card as it was corrected.
Result<Taken> take_entry_into(Workshop& workshop, const Shelf& shelf, const Card& from, const TakeRequest& request,
                              const Origin& origin) {
  wait_for_tick_after(stamp_clock());
  const int64_t began = stamp_clock();
  const auto contents = read_contents(from.entry / "contents.sha256");
  if (!contents) return fail(contents.error());
  std::vector<std::string> files;
  for (const auto& file : *contents) files.push_back(file.file);
  Source source{.root = from.root};
  Taken taken{.card = from};
  taken.card.origin = origin;
  if (request.variants) {
    if (auto trimmed = trim(taken.card, source, request.variants(from), files); !trimmed) return pass(trimmed);
  }
  taken.remarks = std::move(source.remarks);
  Digests digests = std::async(std::launch::async, [&] { return digest_files(from.root, files); });
  const Arrival arrival{.root = from.root, .origin = taken.card.origin};
  if (auto put = put_on_shelf(shelf, arrival, files, std::move(digests), *workshop.entry, {request, began}, taken);
      !put)
    return pass(put);
  auto now = Shelf::at(shelf.folder()).card(from.name, from.version);
  if (!now) return pass(now);
  taken.card = std::move(*now);
  return taken;
}

/// What a parcel says of itself is checked, and kept as it is.
Result<Taken> take_parcel_into(Workshop& workshop, const Shelf& shelf, const Arrival& arrival,
                               const TakeRequest& request) {
  if (request.add || !request.name.empty() || !request.version.empty())
    return fail({.code = Code::usage,
                 .what = "is a parcel, which brings its own name, version and card",
                 .file = arrival.origin.path,
                 .hint = "take it as it is"});
  const auto keys = Keys::standard();
  if (!keys) return fail(keys.error());
  auto parcel = open_parcel(arrival.root, *keys, request.signed_only);
  if (!parcel) return pass(parcel);
  if (request.dry_run) return Taken{.card = std::move(parcel->card), .remarks = std::move(parcel->remarks)};
  auto taken = take_entry_into(workshop, shelf, parcel->card, request, arrival.origin);
  if (taken) taken->remarks.insert(taken->remarks.begin(), parcel->remarks.begin(), parcel->remarks.end());
  return taken;
}

/// Gives libraries the names back that their links had. What lies in somebody's folder is copied first.
Result<Source> with_lost_names(Source source, const fs::path& place, const TakeRequest& request, Arrival& arrival) {
  const auto lost = lost_names(source);
  const bool may_write = arrival.own || !(request.in_place || request.dry_run || source.from_prefix);
  if (lost.empty() || !may_write) return source;
  if (!arrival.own) {
    auto files = files_of(source, {});
    if (auto copied = copy_files(arrival.root, place, files); !copied) return pass(copied);
    arrival.root = place;
    arrival.own = true;
  }
  if (auto made = make_lost_names(lost, arrival.root); !made) return pass(made);
  auto again = read_source(arrival, request);
  if (!again) return again;
  std::vector<std::string> names;
  for (const auto& one : lost) names.push_back(one.name);
  again->remarks.push_back(
      fmt::format("{} made: programs look for {}, and the download has no {}", and_more(names),
                  names.size() == 1 ? fmt::format("{} by that name", fs::path(lost.front().file).filename().string())
                                    : "its libraries by such names",
                  names.size() == 1 ? "link" : "links"));
  return again;
}

Result<Taken> take_into(Workshop& workshop, const Shelf& shelf, const TakeRequest& request) {
  // What is changed from here on has a later time than all that was there.
  if (!request.dry_run) wait_for_tick_after(stamp_clock());
  const int64_t began = stamp_clock();
  const fs::path unpacked = workshop.path() / unpacked_name;
  if (auto made = make_folder(unpacked); !made) return pass(made);
  auto arrival = arrive(request, unpacked);
  if (!arrival) return pass(arrival);
  if (is_parcel(arrival->root)) return take_parcel_into(workshop, shelf, *arrival, request);
  if (request.signed_only)
    return fail({.code = Code::refused,
                 .what = "is no parcel, so nobody can have signed it",
                 .file = arrival->origin.path,
                 .hint = "take it without --signed"});
  auto source = read_source(*arrival, request);
  if (!source) return pass(source);
  const fs::path copied = unpacked / "completed";
  source = with_lost_names(std::move(*source), copied, request, *arrival);
  if (!source) return pass(source);
  source->remarks.insert(source->remarks.end(), arrival->remarks.begin(), arrival->remarks.end());
  tell_oddities(*source);
  auto variants = variants_in(*source);
  if (auto inside = check_inside(*source, variants); !inside) return pass(inside);
  auto files = files_of(*source, variants);
  if (auto named = check_names(*source, files); !named) return pass(named);
  const auto digest = [&] {
    return std::async(std::launch::async, [&] { return digest_files(arrival->root, files); });
  };
  Digests digests;
  if (!request.variants) digests = digest();
  auto card = describe(*source, std::move(variants), *arrival, request, shelf);
  if (!card) return pass(card);
  if (request.variants) {
    card->root = source->root;
    if (auto trimmed = trim(*card, *source, request.variants(*card), files); !trimmed) return pass(trimmed);
    digests = digest();
  }
  Taken taken{.card = std::move(*card), .remarks = std::move(source->remarks)};
  if (request.dry_run) {
    auto contents = digests.get();
    if (!contents) return pass(contents);
    taken.card.digest = digest_of(*contents);
    return taken;
  }
  if (request.add) {
    if (auto added = join_entry(shelf, *arrival, files, *workshop.entry, {request, began}, taken); !added)
      return pass(added);
  } else if (auto put =
                 put_on_shelf(shelf, *arrival, files, std::move(digests), *workshop.entry, {request, began}, taken);
             !put)
    return pass(put);
  auto now = Shelf::at(shelf.folder()).card(taken.card.name, taken.card.version);
  if (!now) return pass(now);
  taken.card = std::move(*now);
  return taken;
}

/// What joins the one version that is there has its version.
std::string only_version(const Shelf& shelf, const std::string& what, const TakeRequest& request) {
  const auto versions = Shelf::at(shelf.folder()).versions(what.substr(what.rfind(' ') + 1));
  if (what.starts_with("version of ") && versions && versions->size() == 1) return versions->front().version;
  return request.ask ? request.ask(what) : std::string();
}

/// A place inside the workshop means nothing to the user: it is told as one inside what was named.
Error seen_from_outside(Error error, const fs::path& workshop, const TakeRequest& request) {
  if (error.file.empty() || !is_inside(workshop, error.file)) return error;
  const auto inside = fs::path(error.file).lexically_relative(workshop);
  fs::path rest;
  for (auto part = std::next(inside.begin()); part != inside.end(); ++part) rest /= *part;
  error.file = request.sources.front() + (rest.empty() ? "" : " (" + rest.generic_string() + ")");
  return error;
}

}  // namespace

Result<Taken> take(const Shelf& shelf, const TakeRequest& request) {
  if (shelf.folder().empty()) {
    return fail({.code = Code::usage,
                 .what = "is read-only: served over HTTP",
                 .file = shelf.shown(),
                 .hint = "name a folder with --shelf"});
  }
  auto workshop = Workshop::make(shelf, request.dry_run);
  if (!workshop) return pass(workshop);
  TakeRequest asked = request;
  if (request.add) asked.ask = [&](const std::string& what) { return only_version(shelf, what, request); };
  auto taken = take_into(*workshop, shelf, asked);
  if (!taken) return fail(without_secrets(seen_from_outside(std::move(taken.error()), workshop->path(), request)));
  return taken;
}

Result<Taken> take_entry(const Shelf& shelf, const Card& entry, const TakeRequest& request) {
  auto workshop = Workshop::make(shelf, false);
  if (!workshop) return pass(workshop);
  return take_entry_into(*workshop, shelf, entry, request,
                         {.kind = "folder", .path = fmt::format("{}-{}", entry.name, entry.version)});
}

namespace {

/// One library file by itself: nothing is known but its bytes.
Result<Taken> describe_file(const fs::path& file) {
  Source source{.root = absolute_path(file).parent_path()};
  if (auto added = add_binaries(source, {file.filename().string()}); !added) return pass(added);
  Taken taken{.card = {.name = library_stem(file)}};
  taken.card.root = source.root;
  taken.card.variants = variants_in(source);
  taken.remarks = std::move(source.remarks);
  return taken;
}

}  // namespace

Result<Taken> describe(const fs::path& folder) {
  if (stamp_of(folder).is_file()) return describe_file(folder);
  constexpr std::string_view untold = "untold";
  const std::string called = split_name(absolute_path(folder).filename().string()).name;
  // Nothing of it comes onto a shelf: names and versions need not be told.
  auto described = take(Shelf::at(folder / ".fibula-shelf"), {.sources = {folder.string()},
                                                              .name = is_plain_name(called) ? "" : "library",
                                                              .in_place = true,
                                                              .dry_run = true,
                                                              .ask = [&](const auto&) { return std::string(untold); }});
  if (!described) return described;
  if (described->card.version == untold) described->card.version.clear();
  described->card.root = absolute_path(folder);
  described->card.in_place = false;  // it is a download, and none of the system's
  return described;
}

}  // namespace fibula
