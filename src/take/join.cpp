#include "take/join.hpp"

#include "base/text.hpp"
#include "headers/header_folders.hpp"
#include "os/file_digest.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"
#include "shelf/contents.hpp"
#include "shelf/storage.hpp"
#include "take/file_roles.hpp"

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

/// Where the headers of two builds differ.
struct HeaderDifferences {
  std::vector<std::string> told;  ///< in words; empty: they are the same, or one has none
  bool in_part = false;           ///< the new build brings some of those that are there, and no other
};
HeaderDifferences differences(const Card& known, const Card& fresh, const fs::path& root) {
  const auto before = headers_of(known, known.root), now = headers_of(fresh, root);
  HeaderDifferences found;
  auto& differ = found.told;
  if (before.empty() || now.empty()) return found;
  found.in_part = now.size() < before.size() &&
                  std::all_of(now.begin(), now.end(), [&](const auto& one) { return before.contains(one.first); });
  for (const auto& [name, path] : now) {
    const auto other = before.find(name);
    if (other == before.end()) {
      differ.push_back(fmt::format("{} is new", name));
    } else if (sha256_of_file(path).value_or("") != sha256_of_file(other->second).value_or("")) {
      differ.push_back(fmt::format("{} has other content", name));
    }
  }
  for (const auto& [name, path] : before) {
    if (!now.contains(name) && !found.in_part) differ.push_back(fmt::format("{} is missing", name));
  }
  return found;
}

/// One that is free: named for the builds in it, where there are any.
std::string folder_for(const Card& known, const std::vector<Variant>& added) {
  const std::string name = added.empty() ? "more-headers"
                                         : fmt::format("{}-{}", to_string(added.front().target.arch),
                                                       to_string(added.front().target.format));
  std::string folder = name;
  for (int number = 2; stamp_of(known.root / folder).there(); ++number) folder = fmt::format("{}-{}", name, number);
  return folder;
}

std::string in_folder(const std::string& path, const std::string& folder) {
  return path.empty() || path == "." ? folder : folder + "/" + path;
}

/// A variant whose files now lie below a folder.
Variant moved(Variant variant, const std::string& folder) {
  const auto below = [&](std::string& path) { path = in_folder(path, folder); };
  for (auto* paths :
       {&variant.link, &variant.runtime, &variant.plugins, &variant.debug, &variant.include_directories}) {
    for (auto& path : *paths) below(path);
  }
  for (auto& [key, learnt] : variant.learnt) {
    if (!learnt.file.empty()) below(learnt.file);
  }
  return variant;
}

/// What the builds of both need as one: nothing that one of them has itself.
void join_requirements(const Card& fresh, const std::string& folder, Card& card) {
  std::set<std::string> there;
  for (const auto& [name, path] : headers_of(card, {})) there.insert(name);
  for (auto requirement : fresh.requirements) {
    const bool known = std::any_of(card.requirements.begin(), card.requirements.end(), [&](const Requirement& one) {
      return one.library == requirement.library && one.header == requirement.header;
    });
    if (known) continue;
    if (!requirement.by.empty()) requirement.by = in_folder(requirement.by, folder);
    card.requirements.push_back(std::move(requirement));
  }
  std::erase_if(card.requirements, [&](const Requirement& one) { return there.contains(one.header); });
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

/// The files of both, where the entry is to have them.
Result<void> bring_together(const Card& known, const fs::path& root, const std::vector<std::string>& files,
                            const std::set<std::string>& left_out, const std::string& folder, const fs::path& into,
                            Joined& joined) {
  const auto contents = read_contents(known.entry / "contents.sha256");
  if (!contents) return fail(contents.error());
  for (const auto& file : *contents) joined.files.push_back(file.file);
  if (auto copied = copy_files(known.root, into, joined.files); !copied) return copied;
  std::vector<std::string> more;
  for (const auto& file : files) {
    if (!left_out.contains(file)) more.push_back(file);
  }
  if (auto copied = copy_files(root, into / folder, more); !copied) return copied;
  for (const auto& file : more) joined.files.push_back(in_folder(file, folder));
  return {};
}

/// The headers came apart from the builds: each has what the other lacks.
Result<Joined> join_headers(const Card& known, const Card& fresh, const fs::path& root,
                            const std::vector<std::string>& files, const fs::path& into) {
  const auto before = headers_of(known, known.root), now = headers_of(fresh, root);
  const std::string folder = folder_for(known, fresh.variants);
  Joined joined{.card = known};
  Card& card = joined.card;
  std::set<std::string> left_out;
  size_t known_already = 0;
  for (const auto& [name, path] : now) {
    const std::string file = shown_from(root, path);
    const auto other = before.find(name);
    if (other == before.end()) {
      card.public_headers.push_back(in_folder(file, folder));
    } else if (sha256_of_file(path).value_or("") == sha256_of_file(other->second).value_or("-")) {
      left_out.insert(file);
      ++known_already;
    } else {
      return fail(refusal(known, fmt::format("has {} with other content", name),
                          "take what is to be added under another name or version"));
    }
  }
  if (fresh.variants.empty() && known_already == now.size())
    return fail(refusal(known, "has these headers already", "nothing is to be done"));
  // Headers alone are for all builds; those that came with builds are for these.
  if (fresh.variants.empty()) {
    for (const auto& directory : fresh.include_directories)
      card.include_directories.push_back(in_folder(directory, folder));
  }
  for (auto variant : fresh.variants) {
    auto& directories = variant.include_directories;
    directories.insert(directories.begin(), fresh.include_directories.begin(), fresh.include_directories.end());
    if (known_already == now.size()) directories.clear();  // none of its own headers is kept
    card.variants.push_back(moved(std::move(variant), folder));
  }
  join_requirements(fresh, folder, card);
  if (fresh.comes_as_source()) {
    joined.remarks.emplace_back("its sources are left out: there are builds");
    for (const auto& file : files) {
      if (is_source_name(file)) left_out.insert(file);
    }
  }
  if (auto brought = bring_together(known, root, files, left_out, folder, into, joined); !brought) return pass(brought);
  return joined;
}

}  // namespace

Result<Joined> join(const Card& known, const Card& fresh, const fs::path& root, const std::vector<std::string>& files,
                    const fs::path& into) {
  if (fresh.variants.empty() && fresh.public_headers.empty())
    return fail(refusal(known, "has builds, and what is to be added has none", "name the folder with its binaries"));
  if (known.in_place || known.comes_as_source())
    return fail(refusal(known,
                        known.in_place ? "is taken in place: its files belong to somebody else"
                                       : "comes as source, which is compiled for each lane",
                        known.in_place ? "take what is to be added under another name or version"
                                       : "take it anew with --replace, and name what is to be added behind it"));
  if (fresh.variants.empty() || known.variants.empty()) return join_headers(known, fresh, root, files, into);
  std::vector<Variant> added;
  for (const auto& variant : fresh.variants) {
    if (!is_there(known, variant, root)) added.push_back(variant);
  }
  if (added.empty()) return fail(refusal(known, "has these builds already", "nothing is to be done"));
  const auto [differ, in_part] = differences(known, fresh, root);
  const std::string folder = folder_for(known, added);
  Joined joined{.card = known};
  Card& card = joined.card;
  if (!differ.empty()) {
    if (!in_part) part_headers(fresh, folder, card);
    const size_t shown = std::min<size_t>(differ.size(), 4);
    joined.remarks.push_back(fmt::format("{}: {}{}",
                                         in_part
                                             ? "it keeps its own of these headers, and shares the others"
                                             : "its headers are not those that are there, so each build keeps its own",
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
  join_requirements(fresh, folder, card);
  std::set<std::string> same;
  if (differ.empty()) same.insert(fresh.public_headers.begin(), fresh.public_headers.end());
  if (auto brought = bring_together(known, root, files, same, folder, into, joined); !brought) return pass(brought);
  return joined;
}

}  // namespace fibula
