#include "shelf/index.hpp"

#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "base/version.hpp"
#include "os/file_digest.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <charconv>
#include <map>

namespace fibula {
namespace {

constexpr std::string_view heading = "fibula shelf 1\n";

template <class Number>
bool parse_number(std::string_view text, Number& into) {
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), into);
  return error == std::errc() && end == text.data() + text.size();
}

std::string variants_of(const Card& card) {
  if (card.comes_as_source()) return "source";
  std::vector<std::string> ids;
  for (const auto& variant : card.variants) ids.push_back(variant.id);
  return ids.empty() ? "headers only" : text::join(ids, ", ");
}

Result<IndexLine> line_for(const fs::path& entry, IndexLine line) {
  auto card = read_card(entry);
  if (!card) return pass(card);
  auto digest = sha256_of_file(entry / "card.toml"), contents = sha256_of_file(entry / "contents.sha256");
  if (!digest) return pass(digest);
  line.card_sha256 = *digest;
  line.contents_sha256 = contents.value_or("");
  line.in_place = card->in_place ? card->origin.path : "";
  std::replace_if(
      line.in_place.begin(), line.in_place.end(), [](char c) { return c == '\t' || c == '\n'; }, '?');
  line.variants = variants_of(*card);
  return line;
}

std::map<std::pair<std::string, std::string>, IndexLine> known_lines(const fs::path& shelf) {
  std::map<std::pair<std::string, std::string>, IndexLine> known;
  const fs::path file = shelf / "shelf.index";
  const auto text = read_text(file);
  auto lines = text ? parse_index(*text, file.string()) : Result<std::vector<IndexLine>>();
  if (!text || !lines) return known;  // an index that cannot be read is made anew
  for (auto& line : *lines) {
    std::pair key(line.name, line.version);
    known.emplace(std::move(key), std::move(line));
  }
  return known;
}

}  // namespace

std::vector<std::string> folders_in(const fs::path& folder) {
  std::vector<std::string> names;
  std::error_code error;
  for (auto entry = fs::directory_iterator(folder, error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    auto name = entry->path().filename().string();
    // Entries on their way in, and what the shelf keeps for itself, begin with a dot.
    // A link leads to what is not the shelf's.
    const bool is_folder = !entry->is_symlink(error) && entry->is_directory(error);
    if (is_plain_name(name) && is_folder) names.push_back(std::move(name));
  }
  std::sort(names.begin(), names.end());
  return names;
}

std::string index_text(const std::vector<IndexLine>& lines) {
  std::string text(heading);
  for (const auto& l : lines) {
    text += fmt::format("{}\t{}\t{}\t{}\t{}\t{}\t{}\t{}\n", l.name, l.version, l.card_size, l.card_time, l.card_sha256,
                        l.contents_sha256, l.in_place, l.variants);
  }
  return text;
}

Result<IndexLine> index_line_of(const fs::path& entry) {
  const Stamp stamp = stamp_of(entry / "card.toml");
  return line_for(entry, {.name = entry.parent_path().filename().string(),
                          .version = entry.filename().string(),
                          .card_size = stamp.size,
                          .card_time = stamp.time});
}

std::string empty_index() {
  return std::string(heading);
}

Result<std::vector<IndexLine>> parse_index(std::string_view text, const std::string& file) {
  const auto malformed = [&](size_t number) {
    return fail({.code = Code::malformed,
                 .what = "is no line of a shelf's index",
                 .file = file,
                 .line = number,
                 .hint = "fibula shelf, run where the shelf is kept, writes it anew"});
  };
  if (!text.starts_with(heading)) return malformed(1);
  std::vector<IndexLine> lines;
  size_t number = 1;
  for (const auto line : text::lines(text.substr(heading.size()))) {
    ++number;
    if (line.empty()) continue;
    const auto part = text::split(line, '\t');
    IndexLine read;
    if (part.size() != 8 || !parse_number(part[2], read.card_size) || !parse_number(part[3], read.card_time))
      return malformed(number);
    read.name = part[0];
    read.version = part[1];
    read.card_sha256 = part[4];
    read.contents_sha256 = part[5];
    read.in_place = part[6];
    read.variants = part[7];
    lines.push_back(std::move(read));
  }
  return lines;
}

Result<std::vector<IndexLine>> index_of(const fs::path& shelf) {
  auto known = known_lines(shelf);
  std::vector<IndexLine> lines;
  for (const auto& name : folders_in(shelf)) {
    const size_t first = lines.size();
    for (const auto& version : folders_in(shelf / name)) {
      const fs::path entry = shelf / name / version;
      const Stamp stamp = stamp_of(entry / "card.toml");
      if (!stamp.there()) continue;  // not an entry, or taken off just now
      IndexLine line{.name = name, .version = version, .card_size = stamp.size, .card_time = stamp.time};
      const auto found = known.find({name, version});
      if (found != known.end() && found->second.card_size == line.card_size &&
          found->second.card_time == line.card_time) {
        lines.push_back(std::move(found->second));
        continue;
      }
      auto fresh = line_for(entry, std::move(line));
      if (!fresh) return pass(fresh);
      lines.push_back(std::move(*fresh));
    }
    std::sort(lines.begin() + static_cast<std::ptrdiff_t>(first), lines.end(),
              [](const IndexLine& a, const IndexLine& b) { return compare_versions(a.version, b.version) > 0; });
  }
  return lines;
}

void refresh_index(const fs::path& shelf) {
  const auto lines = index_of(shelf);
  const auto folder = Folder::open(shelf);
  if (lines && folder) (void)folder->write_if_changed("shelf.index", index_text(*lines));
}

}  // namespace fibula
