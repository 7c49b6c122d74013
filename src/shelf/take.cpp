#include <fibula/take.hpp>

#include "base/files.hpp"
#include "base/text.hpp"
#include "facts/declarations.hpp"
#include "facts/header_folders.hpp"
#include "shelf/source.hpp"
#include "shelf/storage.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <cctype>
#include <set>

namespace fibula {
namespace {

/// `tidecalc-2.1.0` -> {tidecalc, 2.1.0}; a name without a version gives itself.
std::pair<std::string, std::string> split_folder_name(const std::string& folder) {
  for (size_t at = 1; at < folder.size(); ++at) {
    const bool separator = folder[at] == '-' || folder[at] == '_';
    size_t digit = at + 1;
    if (digit < folder.size() && folder[digit] == 'v') ++digit;
    if (separator && digit < folder.size() && std::isdigit(static_cast<unsigned char>(folder[digit])) != 0) {
      return {folder.substr(0, at), folder.substr(digit)};
    }
  }
  return {folder, {}};
}

/// `libtidecalc.so.2.1.0` -> `2.1.0`: at least two numbers, since one alone is the interface's and not the library's.
std::string version_in_file_names(const Source& source) {
  for (const auto& binary : source.binaries) {
    std::error_code ignored;
    const std::string name = fs::canonical(source.root / binary.file, ignored).filename().string();
    const size_t at = name.find(".so.");
    if (at != std::string::npos && name.find('.', at + 4) != std::string::npos) return name.substr(at + 4);
  }
  return {};
}

bool is_plain_name(std::string_view name) {
  return !name.empty() && name[0] != '.' && std::all_of(name.begin(), name.end(), [](char c) {
    return text::is_identifier_character(c) || c == '.' || c == '+' || c == '-' || c == '~';
  });
}

Result<bool> name_it(const Source& source, const TakeRequest& request, Card& card) {
  const auto [folder_name, folder_version] = split_folder_name(source.root.filename().string());
  card.name = !request.name.empty() ? request.name : !request.library.empty() ? request.library : folder_name;
  if (!is_plain_name(card.name)) {
    return fail({.code = Code::refused,
                 .what = fmt::format("cannot be called \"{}\" on a shelf", card.name),
                 .file = source.root.string(),
                 .hint = "give it a name of letters, digits, - and _ with --name"});
  }
  for (const auto& candidate : {request.version, version_in_headers(source, card.name), version_in_file_names(source),
                                source.package_version, folder_version}) {
    if (card.version.empty() && is_plain_name(candidate)) card.version = candidate;
  }
  if (!card.version.empty()) return true;
  return fail({.code = Code::refused,
               .what = "does not say its version: not in its headers, its file names or its folder's name",
               .file = source.root.string(),
               .hint = "give it with --version"});
}

/// Headers without a binary are a library of their own only when they leave nothing to one.
Result<bool> check_headers_only(const Source& source) {
  std::vector<std::string> left;
  for (const auto& header : source.headers) {
    const auto content = read_text(source.root / header);
    if (!content) continue;
    for (auto& name : functions_left_to_a_binary(*content)) left.push_back(std::move(name));
  }
  if (left.empty()) return true;
  const size_t shown = std::min<size_t>(left.size(), 3);
  return fail({.code = Code::refused,
               .what = fmt::format("has headers and no library: they declare {} that no binary here defines ({}{})",
                                   text::count(left.size(), "function"), text::join({left.data(), shown}, ", "),
                                   left.size() > shown ? ", …" : ""),
               .file = source.root.string(),
               .hint = "take the folder that holds the library file too; if these functions come from elsewhere, say "
                       "--headers-only"});
}

Result<bool> check_complete(const Source& source, const TakeRequest& request) {
  if (source.headers.empty() && source.binaries.empty()) {
    return fail({.code = Code::refused,
                 .what = "holds no header and no library",
                 .file = source.root.string(),
                 .hint = "name the folder that was unpacked; for one library of a prefix, name it with --library"});
  }
  if (!source.binaries.empty() || request.headers_only) return true;
  return check_headers_only(source);
}

/// Every file that the card stands for: headers, libraries under all their names, licences.
std::vector<std::string> files_of(const Source& source, const Card& card) {
  std::set<std::string> files(source.headers.begin(), source.headers.end());
  files.insert(source.extra.begin(), source.extra.end());
  for (const auto& binary : source.binaries) {
    files.insert(binary.file);
    const fs::path path = source.root / binary.file;
    std::error_code error;
    const fs::path real = fs::canonical(path, error);
    if (!error && is_inside(fs::canonical(source.root, error), real))
      files.insert(shown_from(fs::canonical(source.root, error), real));
  }
  for (const auto& variant : card.variants) files.insert(variant.runtime.begin(), variant.runtime.end());
  std::erase_if(files, [](const std::string& file) { return fs::path(file).is_absolute(); });
  return {files.begin(), files.end()};
}

Result<Card> describe(const Source& source, const TakeRequest& request) {
  Card card;
  if (auto named = name_it(source, request, card); !named) return pass(named);
  card.licence = licence_in_headers(source);
  card.origin_kind = source.kind;
  card.origin = source.root.string();
  card.in_place = request.in_place;
  card.include_directories = include_directories(source.headers);
  card.public_headers = source.headers;
  card.variants = variants_in(source);
  add_import_definitions(source, card.variants);
  return card;
}

Result<bool> put_on_shelf(const Shelf& shelf, const Source& source, const std::vector<Content>& contents,
                          const Card& card, bool replace) {
  auto entry = TemporaryFolder::make(shelf.folder(), ".arriving-");
  if (!entry) return pass(entry);
  std::vector<std::string> files;
  for (const auto& content : contents) files.push_back(content.file);
  if (!card.in_place) {
    if (auto copied = copy_files(source.root, entry->path() / "files", files); !copied) return copied;
  }
  if (auto written = write_whole(entry->path() / "contents.sha256", contents_text(contents)); !written) return written;
  if (auto written = write_whole(entry->path() / "card.toml", card_text(card)); !written) return written;
  return publish_entry(shelf.folder(), *entry, card, replace);
}

}  // namespace

Result<Taken> take(const Shelf& shelf, const TakeRequest& request) {
  auto source =
      request.library.empty() ? source_in_folder(request.source) : source_in_prefix(request.source, request.library);
  if (!source) return pass(source);
  if (auto complete = check_complete(*source, request); !complete) return pass(complete);
  auto card = describe(*source, request);
  if (!card) return pass(card);
  auto contents = digest_files(source->root, files_of(*source, *card));
  if (!contents) return pass(contents);
  card->digest = digest_of(*contents);
  Taken taken{.card = std::move(*card), .remarks = source->remarks};
  if (request.dry_run) return taken;
  const auto before = shelf.card(taken.card.name, taken.card.version);
  taken.already_there =
      before && before->digest == taken.card.digest && before->in_place == taken.card.in_place && !request.replace;
  if (!taken.already_there) {
    if (auto put = put_on_shelf(shelf, *source, *contents, taken.card, request.replace); !put) return pass(put);
  }
  auto now = shelf.card(taken.card.name, taken.card.version);
  if (!now) return pass(now);
  taken.card = std::move(*now);
  return taken;
}

}  // namespace fibula
