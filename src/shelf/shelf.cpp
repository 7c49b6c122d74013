#include <fibula/shelf.hpp>

#include "base/digest.hpp"
#include "base/files.hpp"
#include "base/version.hpp"
#include "shelf/contents.hpp"
#include "shelf/storage.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// Folders directly inside `folder`, by name; entries on their way in begin with a dot.
std::vector<std::string> folders_in(const fs::path& folder) {
  std::vector<std::string> names;
  std::error_code error;
  for (auto entry = fs::directory_iterator(folder, error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    const auto name = entry->path().filename().string();
    if (!name.starts_with('.') && entry->is_directory(error)) names.push_back(name);
  }
  std::sort(names.begin(), names.end());
  return names;
}

}  // namespace

Result<Shelf> Shelf::standard() {
  if (const auto folder = environment("FIBULA_SHELF")) return Shelf(absolute_path(*folder));
  if (const auto data = environment("XDG_DATA_HOME")) return Shelf(fs::path(*data) / "fibula" / "shelf");
  if (const auto home = environment("HOME")) return Shelf(fs::path(*home) / ".local" / "share" / "fibula" / "shelf");
  return fail({.code = Code::missing_tool,
               .what = "no folder for the shelf: FIBULA_SHELF, XDG_DATA_HOME and HOME are all unset",
               .hint = "set FIBULA_SHELF, or name a folder with --shelf"});
}

Shelf Shelf::at(fs::path folder) {
  return Shelf(absolute_path(folder));
}

std::vector<std::string> Shelf::names() const {
  return folders_in(folder_);
}

Result<std::vector<Card>> Shelf::versions(const std::string& name) const {
  std::vector<Card> cards;
  for (const auto& version : folders_in(folder_ / name)) {
    auto read = card(name, version);
    if (!read) return pass(read);
    cards.push_back(std::move(*read));
  }
  std::sort(cards.begin(), cards.end(),
            [](const Card& a, const Card& b) { return compare_versions(a.version, b.version) > 0; });
  return cards;
}

Result<std::vector<Card>> Shelf::libraries() const {
  std::vector<Card> all;
  for (const auto& name : names()) {
    auto cards = versions(name);
    if (!cards) return pass(cards);
    for (auto& card : *cards) all.push_back(std::move(card));
  }
  return all;
}

Result<Card> Shelf::card(const std::string& name, const std::string& version) const {
  return read_card(folder_ / name / version);
}

Result<std::vector<Change>> Shelf::check(const Card& card) const {
  auto contents = read_contents(folder_ / card.name / card.version / "contents.sha256");
  if (!contents) return pass(contents);
  std::vector<Change> changes;
  for (const auto& content : *contents) {
    const auto digest = sha256_of_file(card.root / content.file);
    if (!digest) changes.push_back({content.file, digest.error().code == Code::absent ? "missing" : "unreadable"});
    if (digest && *digest != content.sha256) changes.push_back({content.file, "changed"});
  }
  return changes;
}

Result<bool> Shelf::drop(const std::string& name, const std::string& version) const {
  const fs::path entry = folder_ / name / version;
  std::error_code error;
  if (!fs::exists(entry / "card.toml", error)) {
    return fail({.code = Code::refused,
                 .what = fmt::format("{} {} is not on the shelf", name, version),
                 .file = folder_.string(),
                 .hint = "fibula shelf lists what is there"});
  }
  return remove_entry(folder_, name, version);
}

}  // namespace fibula
