#include "shelf/index.hpp"

#include "base/digest.hpp"
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
#include <optional>
#include <set>

namespace fibula {
namespace {

constexpr std::string_view heading = "fibula shelf 2\n", part_heading = "fibula shelf part 2\n";
constexpr const char* parts_folder = ".index";

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

using Known = std::map<std::pair<std::string, std::string>, IndexLine>;

/// A part that cannot be read is made anew.
void add_known(const fs::path& shelf, const IndexPart& part, Known& known) {
  auto lines = lines_of(shelf, part);
  for (auto& line : lines ? *lines : std::vector<IndexLine>()) {
    std::pair key(line.name, line.version);
    known.emplace(std::move(key), std::move(line));
  }
}

/// What is there of one library, newest first.
Result<void> add_library(const fs::path& shelf, const std::string& name, Known& known, std::vector<IndexLine>& lines) {
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
  return {};
}

/// Writes a part under its new name, and removes those before the one that readers may just have been told of.
bool write_part(const Folder& shelf, const IndexPart& part, const std::string& text, const IndexPart* before) {
  if (!shelf.write(part_file(part), text)) return false;
  const fs::path folder = shelf.path() / parts_folder;
  for (const auto& file : files_directly_in(folder)) {
    const std::string inside = fmt::format("{}/{}", parts_folder, file.string());
    const bool kept = inside == part_file(part) || (before != nullptr && inside == part_file(*before));
    if (!kept && file.string().starts_with(part.name + "-")) (void)shelf.remove(inside);
  }
  return true;
}

/// Readers see the old one or the new one.
void write_parts(const Folder& shelf, const std::vector<IndexPart>& parts) {
  const std::string text = index_text(parts), arriving = fmt::format("{}/{}", arriving_folder, index_file);
  if (const auto before = read_text(shelf.path() / index_file); before && *before == text) return;
  if (shelf.write(arriving, text)) (void)shelf.rename(arriving, index_file);
}

/// All of it, made anew.
void write_index(const fs::path& shelf) {
  const auto lines = index_of(shelf);
  const auto folder = Folder::open(shelf);
  if (!lines || !folder) return;
  std::map<std::string, std::vector<IndexLine>> by_part;
  for (const auto& line : *lines) by_part[part_of(line.name)].push_back(line);
  std::vector<IndexPart> parts;
  for (const auto& [name, of_part] : by_part) {
    const std::string text = part_text(of_part);
    parts.push_back(described_part(name, text));
    if (!write_part(*folder, parts.back(), text, nullptr)) return;
  }
  write_parts(*folder, parts);
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

std::string part_text(const std::vector<IndexLine>& lines) {
  std::string text(part_heading);
  for (const auto& l : lines) {
    text += fmt::format("{}\t{}\t{}\t{}\t{}\t{}\t{}\t{}\n", l.name, l.version, l.card_size, l.card_time, l.card_sha256,
                        l.contents_sha256, l.in_place, l.variants);
  }
  return text;
}

std::string part_of(const std::string& library) {
  return sha256(library).substr(0, 2);
}

std::string part_file(const IndexPart& part) {
  return fmt::format("{}/{}-{}", parts_folder, part.name, part.sha256.substr(0, 32));
}

IndexPart described_part(const std::string& name, const std::string& text) {
  return {name, sha256(text)};
}

std::string index_text(const std::vector<IndexPart>& parts) {
  std::string text(heading);
  for (const auto& part : parts) text += fmt::format("{}\t{}\n", part.name, part.sha256);
  return text;
}

std::vector<IndexPart> with_part(std::vector<IndexPart> parts, const IndexPart& part) {
  const auto at = std::lower_bound(parts.begin(), parts.end(), part,
                                   [](const IndexPart& a, const IndexPart& b) { return a.name < b.name; });
  if (at != parts.end() && at->name == part.name) {
    *at = part;
  } else {
    parts.insert(at, part);
  }
  return parts;
}

Result<std::vector<IndexPart>> parts_of(const fs::path& shelf) {
  auto text = read_text(shelf / index_file);
  if (!text) return pass(text);
  return parse_index(*text, (shelf / index_file).string());
}

Result<std::vector<IndexLine>> lines_of(const fs::path& shelf, const IndexPart& part) {
  auto text = read_text(shelf / part_file(part));
  if (!text) return pass(text);
  return parse_part(*text, part_file(part));
}

Result<IndexLine> index_line_of(const fs::path& entry) {
  const Stamp stamp = stamp_of(entry / "card.toml");
  return line_for(entry, {.name = entry.parent_path().filename().string(),
                          .version = entry.filename().string(),
                          .card_size = stamp.size,
                          .card_time = stamp.time});
}

namespace {

Error malformed_index(const std::string& file, size_t line) {
  return {.code = Code::malformed,
          .what = "is no line of a shelf's index",
          .file = file,
          .line = line,
          .hint = "fibula take, run where the shelf is kept, writes it anew"};
}

}  // namespace

Result<std::vector<IndexPart>> parse_index(std::string_view text, const std::string& file) {
  if (!text.starts_with(heading)) return fail(malformed_index(file, 1));
  std::vector<IndexPart> parts;
  size_t number = 1;
  for (const auto line : text::lines(text.substr(heading.size()))) {
    ++number;
    if (line.empty()) continue;
    const auto part = text::split(line, '\t');
    // The digest becomes a file's name.
    const auto hexadecimal = [](std::string_view digits, size_t count) {
      return digits.size() == count && digits.find_first_not_of("0123456789abcdef") == std::string_view::npos;
    };
    if (part.size() != 2 || !hexadecimal(part[0], 2) || !hexadecimal(part[1], 64))
      return fail(malformed_index(file, number));
    parts.push_back({std::string(part[0]), std::string(part[1])});
  }
  return parts;
}

Result<std::vector<IndexLine>> parse_part(std::string_view text, const std::string& file) {
  if (!text.starts_with(part_heading)) return fail(malformed_index(file, 1));
  std::vector<IndexLine> lines;
  size_t number = 1;
  for (const auto line : text::lines(text.substr(part_heading.size()))) {
    ++number;
    if (line.empty()) continue;
    const auto part = text::split(line, '\t');
    IndexLine read;
    if (part.size() != 8 || !parse_number(part[2], read.card_size) || !parse_number(part[3], read.card_time))
      return fail(malformed_index(file, number));
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
  return index_of(shelf, folders_in(shelf));
}

Result<std::vector<IndexLine>> index_of(const fs::path& shelf, const std::vector<std::string>& libraries) {
  std::set<std::string> wanted;
  for (const auto& name : libraries) wanted.insert(part_of(name));
  Known known;
  for (const auto& part : parts_of(shelf).value_or(std::vector<IndexPart>())) {
    if (wanted.contains(part.name)) add_known(shelf, part, known);
  }
  std::vector<IndexLine> lines;
  for (const auto& name : libraries) {
    if (auto added = add_library(shelf, name, known, lines); !added) return pass(added);
  }
  return lines;
}

void refresh_index(const fs::path& shelf, const std::string& library) {
  const auto parts = parts_of(shelf);
  if (!parts) return write_index(shelf);
  const std::string name = part_of(library);
  const auto before =
      std::find_if(parts->begin(), parts->end(), [&](const IndexPart& part) { return part.name == name; });
  Known known;
  if (before != parts->end()) add_known(shelf, *before, known);
  // Its neighbours in the part are looked at too: each costs a stamp.
  std::set<std::string> names{library};
  for (const auto& [key, line] : known) names.insert(key.first);
  std::vector<IndexLine> lines;
  for (const auto& one : names) {
    if (auto added = add_library(shelf, one, known, lines); !added) return write_index(shelf);
  }
  const auto folder = Folder::open(shelf);
  if (!folder) return;
  if (lines.empty()) {
    auto left = *parts;
    std::erase_if(left, [&](const IndexPart& part) { return part.name == name; });
    write_parts(*folder, left);
    return;
  }
  const std::string text = part_text(lines);
  const IndexPart part = described_part(name, text);
  if (!write_part(*folder, part, text, before == parts->end() ? nullptr : &*before)) return;
  write_parts(*folder, with_part(*parts, part));
}

bool is_shelf(const fs::path& folder) {
  return stamp_of(folder / index_file).is_file();
}

}  // namespace fibula
