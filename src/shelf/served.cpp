#include "shelf/served.hpp"

#include "base/text.hpp"
#include "os/download.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"
#include "shelf/contents.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

/// A path's signs that mean something in an URL (RFC 3986, section 2).
std::string escaped(std::string_view path) {
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

/// Names from elsewhere become folders here.
bool is_entry_name(const std::string& name) {
  return !name.empty() && name[0] != '.' && name.find('/') == std::string::npos;
}

bool has_digest(const fs::path& file, const std::string& sha256) {
  const auto digest = sha256_of_file(file);
  return digest && *digest == sha256;
}

/// Fetches into place what is not there already with this digest.
Result<void> fetch(Downloader& downloader, const std::string& url, const std::string& sha256, const fs::path& file) {
  if (has_digest(file, sha256)) return {};
  if (auto made = make_folder(file.parent_path()); !made) return made;
  auto got = downloader.get({.url = url, .sha256 = sha256, .folder = file.parent_path()});
  if (!got && got.error().code == Code::refused) {
    got.error().hint = "the shelf was changed without its index: fibula shelf, run where it is kept, writes it anew";
  }
  if (!got) return pass(got);
  std::error_code error;
  fs::rename(got->file, file, error);
  if (error)
    return fail({.code = Code::io, .what = "cannot be put in place: " + error.message(), .file = file.string()});
  return {};
}

}  // namespace

Result<std::vector<IndexLine>> ServedShelf::lines() {
  const std::lock_guard lock(mutex_);
  if (lines_) return *lines_;
  const fs::path kept = cache_ / "shelf.index";
  auto text = download_text(url_ + "/shelf.index", 64U << 20U);
  if (!text && text.error().code == Code::absent) {
    text.error().what = "is no shelf: " + text.error().what;
    text.error().hint = "name the address of the folder that has shelf.index in it";
  }
  // A server that is down does not stop who has been there before.
  const bool fresh = text.has_value();
  if (!fresh && text.error().code == Code::unreadable) {
    if (auto last = read_text(kept)) text = std::move(last);
  }
  if (!text) return pass(text);
  auto lines = parse_index(*text, url_ + "/shelf.index");
  if (!lines) return pass(lines);
  std::erase_if(*lines,
                [](const IndexLine& line) { return !is_entry_name(line.name) || !is_entry_name(line.version); });
  if (fresh && make_folder(cache_)) (void)write_if_changed(kept, *text);
  lines_ = *lines;
  return lines;
}

Result<Card> ServedShelf::card(const IndexLine& line) {
  const fs::path entry = cache_ / line.name / line.version;
  const std::string url = fmt::format("{}/{}/{}", url_, escaped(line.name), escaped(line.version));
  Downloader downloader;
  for (const auto& [name, digest] :
       {std::pair{"card.toml", line.card_sha256}, {"contents.sha256", line.contents_sha256}}) {
    if (auto got = fetch(downloader, url + "/" + name, digest, entry / name); !got) return pass(got);
  }
  return read_card(entry);
}

Result<void> ServedShelf::bring(const Card& card) {
  if (card.in_place) return {};
  auto contents = read_contents(card.entry / "contents.sha256");
  if (!contents) return pass(contents);
  Downloader downloader;
  for (const auto& content : *contents) {
    const fs::path name(content.file);
    if (name.is_absolute() || *name.lexically_normal().begin() == "..") {
      return fail({.code = Code::malformed,
                   .what = fmt::format("names {}, which leads out of the library", content.file),
                   .file = url_,
                   .hint = "do not use this shelf"});
    }
    const fs::path file = card.root / name;
    // What came before was checked then; fibula shelf check reads it again.
    std::error_code ignored;
    if (fs::exists(file, ignored)) continue;
    const std::string url =
        fmt::format("{}/{}/{}/files/{}", url_, escaped(card.name), escaped(card.version), escaped(content.file));
    if (auto got = fetch(downloader, url, content.sha256, file); !got) return got;
  }
  return {};
}

}  // namespace fibula
