#include "shelf/served.hpp"

#include "base/address.hpp"
#include "base/digest.hpp"
#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "os/download.hpp"
#include "os/file_digest.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"
#include "shelf/built.hpp"
#include "shelf/contents.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

std::string url_path(std::string_view path) {
  std::string text;
  for (const char c : path) {
    const bool plain = text::is_identifier_character(c) || c == '-' || c == '.' || c == '~' || c == '/';
    if (plain) {
      text += c;
    } else {
      text += fmt::format("%{:02X}", static_cast<unsigned char>(c));
    }
  }
  return text;
}

namespace {

bool has_digest(const fs::path& file, const std::string& sha256) {
  const auto digest = sha256_of_file(file);
  return digest && *digest == sha256;
}

/// What the index or a list of contents says of a file that is fetched.
struct Expected {
  std::string sha256;
  uint64_t size = 16ULL << 30U;  ///< at most
};

/// Fetches into place what is not there already with this digest.
Result<void> fetch(Downloader& downloader, const std::string& url, const Expected& expected, const Folder& cache,
                   const std::string& inside) {
  const std::string& sha256 = expected.sha256;
  const fs::path file = cache.path() / inside;
  if (has_digest(file, sha256)) return {};
  const size_t slash = inside.rfind('/');
  if (auto made = cache.make_folder(inside.substr(0, slash)); !made) return made;
  auto got = downloader.get({.url = url, .sha256 = sha256, .folder = file.parent_path(), .limit = expected.size});
  if (!got && got.error().code == Code::refused) {
    got.error().hint = "the shelf was changed without its index: take the library again there, with --replace";
  }
  if (!got) return pass(got);
  return cache.rename(inside.substr(0, slash + 1) + got->file.filename().string(), inside);
}

constexpr const char* tag_file = "shelf.index.tag";

/// What came last, with the server's tag of it; no tag where it is not the text that the tag was given for.
TaggedText kept_index(const fs::path& cache) {
  TaggedText kept{.text = read_text(cache / index_file).value_or(""), .tag = {}};
  const std::string line = read_text(cache / tag_file).value_or("");
  const auto words = text::split(line, '\t');
  if (words.size() == 2 && words[0] == sha256(kept.text)) kept.tag = words[1];
  return kept;
}

void keep_index(const fs::path& folder, const TaggedText& index) {
  const auto cache = Folder::make(folder);
  if (!cache) return;
  (void)cache->write_if_changed(index_file, index.text);
  (void)cache->write_if_changed(tag_file, fmt::format("{}\t{}", sha256(index.text), index.tag));
}

}  // namespace

Result<std::vector<IndexPart>> ServedShelf::parts() {
  if (parts_) return *parts_;
  const TaggedText kept = kept_index(cache_);
  auto text = download_text(fmt::format("{}/{}", url_, index_file), 64U << 20U, kept);
  if (!text && text.error().code == Code::absent) {
    text.error().what = "is no shelf: " + text.error().what;
    text.error().hint = "name the address of the folder that has shelf.index in it";
  }
  // A server that is down does not stop who has been there before.
  const bool fresh = text.has_value();
  if (!fresh && text.error().code == Code::unreadable && !kept.text.empty()) text = kept;
  if (!text) return pass(text);
  auto parts = parse_index(text->text, fmt::format("{}/{}", without_secrets(url_), index_file));
  if (!parts) return parts;
  if (fresh) keep_index(cache_, *text);
  parts_ = *parts;
  return parts;
}

Result<std::vector<IndexLine>> ServedShelf::lines_in(const IndexPart& part) {
  if (const auto known = lines_.find(part.sha256); known != lines_.end()) return known->second;
  const auto cache = Folder::make(cache_);
  if (!cache) return fail(cache.error());
  const std::string inside = part_file(part);
  Downloader downloader;
  if (auto got = fetch(downloader, url_ + "/" + inside, {part.sha256}, *cache, inside); !got) return pass(got);
  auto text = read_text(cache_ / inside);
  if (!text) return pass(text);
  auto lines = parse_part(*text, without_secrets(url_) + "/" + inside);
  if (!lines) return lines;
  // Names from elsewhere become folders here.
  std::erase_if(*lines,
                [](const IndexLine& line) { return !is_plain_name(line.name) || !is_plain_name(line.version); });
  lines_.emplace(part.sha256, *lines);
  return lines;
}

Result<std::vector<IndexLine>> ServedShelf::lines(const std::string& library) {
  const std::lock_guard lock(mutex_);
  auto parts = this->parts();
  if (!parts) return pass(parts);
  const std::string name = part_of(library);
  const auto part = std::find_if(parts->begin(), parts->end(), [&](const IndexPart& one) { return one.name == name; });
  if (part == parts->end()) return std::vector<IndexLine>();
  auto lines = lines_in(*part);
  if (lines) std::erase_if(*lines, [&](const IndexLine& line) { return line.name != library; });
  return lines;
}

Result<std::vector<IndexLine>> ServedShelf::lines() {
  const std::lock_guard lock(mutex_);
  auto parts = this->parts();
  if (!parts) return pass(parts);
  std::vector<IndexLine> all;
  for (const auto& part : *parts) {
    auto lines = lines_in(part);
    if (!lines) return lines;
    all.insert(all.end(), lines->begin(), lines->end());
  }
  // Parts are by digests, people read names.
  std::stable_sort(all.begin(), all.end(), [](const IndexLine& a, const IndexLine& b) { return a.name < b.name; });
  return all;
}

Result<std::vector<IndexPart>> ServedShelf::index_parts() {
  const std::lock_guard lock(mutex_);
  return parts();
}

Result<std::vector<IndexLine>> ServedShelf::part_lines(const IndexPart& part) {
  const std::lock_guard lock(mutex_);
  return lines_in(part);
}

Result<Card> ServedShelf::card(const IndexLine& line) {
  const auto cache = Folder::make(cache_);
  if (!cache) return fail(cache.error());
  const std::string entry = fmt::format("{}/{}", line.name, line.version);
  const std::string url = fmt::format("{}/{}/{}", url_, url_path(line.name), url_path(line.version));
  Downloader downloader;
  const std::pair<const char*, Expected> files[] = {{"card.toml", {line.card_sha256, line.card_size}},
                                                    {"contents.sha256", {line.contents_sha256}}};
  for (const auto& [name, digest] : files) {
    if (auto got = fetch(downloader, url + "/" + name, digest, *cache, fmt::format("{}/{}", entry, name)); !got)
      return pass(got);
  }
  return read_card(cache_ / entry);
}

Result<void> ServedShelf::bring(const Card& card) {
  if (card.in_place) return {};
  auto contents = read_contents(card.entry / "contents.sha256");
  if (!contents) return pass(contents);
  const auto cache = Folder::make(cache_);
  if (!cache) return fail(cache.error());
  Downloader downloader;
  for (const auto& content : *contents) {
    const fs::path file = card.root / content.file;
    // What came before was checked then; fibula shelf check reads it again.
    std::error_code ignored;
    if (fs::exists(file, ignored)) continue;
    const std::string url =
        fmt::format("{}/{}/{}/files/{}", url_, url_path(card.name), url_path(card.version), url_path(content.file));
    if (auto got = fetch(downloader, url, {content.sha256}, *cache, shown_from(cache_, file)); !got) return got;
  }
  return {};
}

void ServedShelf::bring_built(const std::string& place) {
  const fs::path folder = cache_ / place;
  if (stamp_of(folder / "card.toml").is_file() || !InsidePath::of(place)) return;
  const std::string url = fmt::format("{}/{}", url_, url_path(place)), list = fmt::format("{}/{}", url, built_list);
  // One request tells whether it is there; what it lists is checked file by file, and the card comes last.
  const auto text = download_text(list, 64U << 20U);
  if (!text) return;
  const auto contents = parse_digest_list(*text, without_secrets(list), "");
  const auto cache = Folder::make(cache_);
  if (!contents || !cache) return;
  Downloader downloader;
  const auto bring = [&](const ListedFile& file) {
    return fetch(downloader, fmt::format("{}/{}", url, url_path(file.file)), {file.sha256}, *cache,
                 fmt::format("{}/{}", place, file.file));
  };
  const ListedFile* card = nullptr;
  for (const auto& file : *contents) {
    if (file.file == "card.toml") {
      card = &file;
    } else if (!bring(file)) {
      return;
    }
  }
  if (card != nullptr && cache->write(fmt::format("{}/{}", place, built_list), *text)) (void)bring(*card);
}

}  // namespace fibula
