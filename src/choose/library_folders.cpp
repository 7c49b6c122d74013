#include "choose/library_folders.hpp"

#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "headers/header_folders.hpp"
#include "headers/include_lines.hpp"
#include "making/configure_script.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"
#include "shelf/index.hpp"
#include "take/file_roles.hpp"
#include "take/naming.hpp"
#include "take/sources/template_header.hpp"

#include <fibula/facts.hpp>
#include <fibula/take.hpp>

#include <algorithm>
#include <set>

namespace fibula {
namespace {

constexpr std::string_view collections[] = {"lib",         "libs",     "libraries", "vendor",       "vendored",
                                            "third_party", "3rdparty", "deps",      "dependencies", "third-party",
                                            "thirdparty",  "external", "externals", "extern"};
/// Never libraries of somebody else.
constexpr std::string_view others[] = {"build", "out", "bin", "obj", "dist", "src", "include"};

template <size_t count>
bool is_one_of(const std::string_view (&names)[count], const fs::path& folder) {
  const std::string name = text::lower(folder.filename().string());
  return std::find(std::begin(names), std::end(names), name) != std::end(names);
}

std::vector<fs::path> visible_folders_in(const fs::path& folder) {
  std::vector<fs::path> found;
  std::error_code error;
  for (auto entry = fs::directory_iterator(folder, error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    const bool hidden = entry->path().filename().string().starts_with('.');
    if (!hidden && entry->is_directory(error) && !entry->is_symlink(error)) found.push_back(entry->path());
  }
  std::sort(found.begin(), found.end());
  return found;
}

bool has_binary(const fs::path& folder) {
  const auto files = files_below(folder, 20'000);
  return files && std::any_of(files->begin(), files->end(), [](const fs::path& file) {
           return has_library_name(file) && file.string().find(".fibula") == std::string::npos;
         });
}

/// `lib/` may be a folder of libraries, or one library's own.
bool holds_files_of_a_library(const fs::path& folder) {
  const auto files = files_directly_in(folder);
  return std::any_of(files.begin(), files.end(),
                     [](const fs::path& file) { return is_header_name(file.string()) || has_library_name(file); });
}

/// Folders that may hold a library; shelves are put apart.
std::vector<fs::path> candidates(const fs::path& root, std::vector<std::string>& shelves) {
  std::vector<fs::path> found;
  for (const auto& folder : visible_folders_in(root)) {
    if (is_shelf(folder)) {
      shelves.push_back(shown_from(root, folder));
    } else if (stamp_of(folder / "card.toml").is_file()) {
      found.push_back(folder);
    } else if (is_one_of(collections, folder)) {
      if (holds_files_of_a_library(folder)) {
        found.push_back(folder);
        continue;
      }
      for (auto& inner : visible_folders_in(folder)) found.push_back(std::move(inner));
    } else if (!is_one_of(others, folder) && has_binary(folder)) {
      found.push_back(folder);
    }
  }
  return found;
}

/// Names of the headers below a folder.
std::set<std::string> header_names_below(const fs::path& folder, const fs::path& without = {}) {
  std::set<std::string> names;
  for (const auto& file : files_below(folder, 20'000).value_or(std::vector<fs::path>())) {
    if (is_header_name(file.string()) && (without.empty() || !is_inside(without, folder / file)))
      names.insert(file.filename().string());
  }
  return names;
}

/// Headers that the project's own configure step makes, for all of its folders.
std::set<std::string> made_headers_of(const fs::path& root) {
  std::set<std::string> names;
  for (const auto& header : configured_headers(root)) names.insert(fs::path(header.name).filename().string());
  return names;
}

bool has_template(const std::vector<fs::path>& files, const std::string& name) {
  return std::any_of(files.begin(), files.end(),
                     [&](const fs::path& file) { return header_of_template(file.string()) == text::lower(name); });
}

/// Code that cannot do without headers of the project around it is no library of its own.
bool is_part_of(const fs::path& root, const fs::path& folder) {
  const auto own = header_names_below(folder), around = header_names_below(root, folder);
  const auto made = made_headers_of(root);
  const auto files = files_below(folder, 20'000).value_or(std::vector<fs::path>());
  return std::any_of(files.begin(), files.end(), [&](const fs::path& file) {
    if (!is_source_name(file.string())) return false;
    const auto lines = include_lines(read_text(folder / file).value_or(""));
    return std::any_of(lines.begin(), lines.end(), [&](const IncludeLine& line) {
      const std::string name = fs::path(line.name).filename().string();
      if (own.contains(name)) return false;
      return (line.quoted && !line.conditional && around.contains(name)) ||
             (made.contains(name) && !has_template(files, name));
    });
  });
}

}  // namespace

LibraryFolders library_folders(const fs::path& root) {
  LibraryFolders all;
  for (const auto& folder : candidates(root, all.shelves)) {
    const std::string shown = shown_from(root, folder);
    if (stamp_of(folder / "card.toml").is_file()) {
      if (auto card = read_card(folder)) {
        all.found.push_back({card->name, shown});
      } else {
        all.refused.push_back(card.error());
      }
      continue;
    }
    if (is_part_of(root, folder)) continue;
    auto described = describe(folder);
    if (described && !is_plain_name(split_name(folder.filename().string()).name)) {
      all.refused.push_back({.code = Code::refused,
                             .what = "has a folder's name that no library can have",
                             .file = folder.string(),
                             .hint = "rename the folder"});
    } else if (described) {
      all.found.push_back({described->card.name, shown});
    } else {
      all.refused.push_back(described.error());
    }
  }
  return all;
}

}  // namespace fibula
