#include "take/join.hpp"

#include "base/text.hpp"
#include "headers/header_folders.hpp"
#include "os/file_digest.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"
#include "shelf/contents.hpp"
#include "shelf/storage.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>
#include <set>

namespace fibula {
namespace {

/// A library's headers by the names under which users include them.
std::map<std::string, fs::path> headers_of(const Card& card, const fs::path& root) {
  std::map<std::string, fs::path> headers;
  const auto directories = card.include_directories_for();
  for (const auto& header : card.public_headers) headers.emplace(included_as(header, directories), root / header);
  return headers;
}

/// Where the headers of two builds differ, in words; empty: they are the same, or one has none.
std::vector<std::string> differences(const Card& known, const Card& fresh, const fs::path& root) {
  const auto before = headers_of(known, known.root), now = headers_of(fresh, root);
  std::vector<std::string> differ;
  if (before.empty() || now.empty()) return differ;
  for (const auto& [name, path] : now) {
    const auto other = before.find(name);
    if (other == before.end()) {
      differ.push_back(fmt::format("{} is new", name));
    } else if (sha256_of_file(path).value_or("") != sha256_of_file(other->second).value_or("")) {
      differ.push_back(fmt::format("{} has other content", name));
    }
  }
  for (const auto& [name, path] : before) {
    if (!now.contains(name)) differ.push_back(fmt::format("{} is missing", name));
  }
  return differ;
}

std::string folder_for(const Card& known, const Variant& first) {
  const std::string name = fmt::format("{}-{}", to_string(first.target.arch), to_string(first.target.format));
  std::string folder = name;
  for (int number = 2; stamp_of(known.root / folder).there(); ++number) folder = fmt::format("{}-{}", name, number);
  return folder;
}

/// A variant whose files now lie below a folder.
Variant moved(Variant variant, const std::string& folder) {
  const auto below = [&](std::string& path) { path = path.empty() || path == "." ? folder : folder + "/" + path; };
  for (auto* paths :
       {&variant.link, &variant.runtime, &variant.plugins, &variant.debug, &variant.include_directories}) {
    for (auto& path : *paths) below(path);
  }
  for (auto& [key, learnt] : variant.learnt) {
    if (!learnt.file.empty()) below(learnt.file);
  }
  return variant;
}

/// Whether the entry has these very files already.
bool is_there(const Card& known, const Variant& variant, const fs::path& root) {
  return std::any_of(known.variants.begin(), known.variants.end(), [&](const Variant& other) {
    if (other.link.size() != variant.link.size() || other.link.empty()) return false;
    for (size_t i = 0; i < other.link.size(); ++i) {
      const auto one = sha256_of_file(known.root / other.link[i]), two = sha256_of_file(root / variant.link[i]);
      if (!one || !two || *one != *two) return false;
    }
    return true;
  });
}

void give_free_id(const std::vector<Variant>& others, Variant& variant) {
  const std::string id = variant.id;
  const auto taken = [&] {
    return std::any_of(others.begin(), others.end(), [&](const Variant& one) { return one.id == variant.id; });
  };
  for (int number = 2; taken(); ++number) variant.id = fmt::format("{}-{}", id, number);
}

/// Each build is compiled against its own headers.
void part_headers(const Card& fresh, const std::string& folder, Card& card) {
  for (auto& variant : card.variants)
    variant.include_directories.insert(variant.include_directories.begin(), card.include_directories.begin(),
                                       card.include_directories.end());
  card.include_directories.clear();
  for (const auto& header : fresh.public_headers) card.public_headers.push_back(folder + "/" + header);
}

Error refusal(const Card& known, std::string what, std::string hint) {
  return {.code = Code::refused, .what = std::move(what), .file = known.entry.string(), .hint = std::move(hint)};
}

}  // namespace

Result<Joined> join(const Card& known, const Card& fresh, const fs::path& root, const std::vector<std::string>& files,
                    const fs::path& into) {
  if (fresh.variants.empty())
    return fail(refusal(known, "has builds, and what is to be added has none", "name the folder with its binaries"));
  if (known.in_place || known.comes_as_source())
    return fail(refusal(known,
                        known.in_place ? "is taken in place: its files belong to somebody else"
                                       : "comes as source, which is compiled for each lane",
                        "take what is to be added under another name or version"));
  std::vector<Variant> added;
  for (const auto& variant : fresh.variants) {
    if (!is_there(known, variant, root)) added.push_back(variant);
  }
  if (added.empty()) return fail(refusal(known, "has these builds already", "nothing is to be done"));
  const auto differ = differences(known, fresh, root);
  const std::string folder = folder_for(known, added.front());
  Joined joined{.card = known};
  Card& card = joined.card;
  if (!differ.empty()) {
    part_headers(fresh, folder, card);
    const size_t shown = std::min<size_t>(differ.size(), 4);
    joined.remarks.push_back(fmt::format("its headers are not those that are there, so each build keeps its own: {}{}",
                                         text::join({differ.data(), shown}, ", "), differ.size() > shown ? ", …" : ""));
  }
  for (auto& variant : added) {
    if (!differ.empty())
      variant.include_directories.insert(variant.include_directories.begin(), fresh.include_directories.begin(),
                                         fresh.include_directories.end());
    if (differ.empty()) variant.include_directories.clear();
    give_free_id(card.variants, variant);
    card.variants.push_back(moved(variant, folder));
  }
  const auto contents = read_contents(known.entry / "contents.sha256");
  if (!contents) return fail(contents.error());
  for (const auto& file : *contents) joined.files.push_back(file.file);
  if (auto copied = copy_files(known.root, into, joined.files); !copied) return pass(copied);
  std::set<std::string> headers(fresh.public_headers.begin(), fresh.public_headers.end());
  std::vector<std::string> more;
  for (const auto& file : files) {
    if (!differ.empty() || !headers.contains(file)) more.push_back(file);
  }
  if (auto copied = copy_files(root, into / folder, more); !copied) return pass(copied);
  for (const auto& file : more) joined.files.push_back(folder + "/" + file);
  return joined;
}

}  // namespace fibula
