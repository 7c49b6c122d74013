#include "shelf/source.hpp"

#include "base/files.hpp"
#include "base/text.hpp"
#include "binary/open.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

bool ends_with_one_of(const std::string& file, std::initializer_list<std::string_view> endings) {
  const std::string name = text::lower(file);
  return std::any_of(endings.begin(), endings.end(), [&](std::string_view ending) { return name.ends_with(ending); });
}

bool is_licence_name(const std::string& file) {
  const std::string name = text::lower(fs::path(file).filename().string());
  return name.starts_with("license") || name.starts_with("licence") || name.starts_with("copying");
}

/// A script in place of a library has the facts of the first file that it names beside itself.
Result<Facts> facts_behind(const fs::path& path, const Facts& facts) {
  for (const auto& need : *facts.needs.value) {
    const fs::path target = fs::path(need.name).is_absolute() ? fs::path(need.name) : path.parent_path() / need.name;
    std::error_code ignored;
    if (fs::is_regular_file(target, ignored)) return inspect(target);
  }
  return fail({.code = Code::absent,
               .what = "is a linker script, and none of the files it names is there",
               .file = path.string(),
               .hint = "take the package that has them as well"});
}

}  // namespace

bool is_header_name(const std::string& file) {
  return ends_with_one_of(file, {".h", ".hh", ".hpp", ".hxx", ".h++", ".inl", ".ipp", ".tpp"});
}

Result<bool> add_binaries(Source& source, const std::vector<std::string>& files) {
  for (const auto& file : files) {
    const fs::path path = source.root / file;
    std::error_code ignored;
    if (fs::is_symlink(path, ignored) && !fs::exists(path, ignored)) {
      source.remarks.push_back(
          fmt::format("{} is a link to {}, which is not there", file, fs::read_symlink(path, ignored).string()));
      continue;
    }
    auto facts = inspect(path);
    if (facts && facts->kind.value == Kind::script) facts = facts_behind(path, *facts);
    if (!facts) return pass(facts);
    if (facts->mixed) {
      return fail({.code = Code::refused,
                   .what = facts->notes.back(),
                   .file = path.string(),
                   .hint = "no program can use all of it: ask for a library that was built for one machine"});
    }
    for (const auto& note : facts->notes) source.remarks.push_back(file + ": " + note);
    source.binaries.push_back({file, std::move(*facts)});
  }
  return true;
}

Result<Source> source_in_folder(const fs::path& folder) {
  std::error_code ignored;
  if (fs::is_regular_file(folder, ignored)) {
    auto file = open_binary(folder, 0);
    if (!file) return pass(file);
    return fail({.code = Code::refused,
                 .what = "is one file; a library is taken as the folder that holds its headers too",
                 .file = folder.string(),
                 .hint = "name the folder"});
  }
  auto files = files_below(folder);
  if (!files) return pass(files);
  Source source{.root = absolute_path(folder), .kind = "folder"};
  std::vector<std::string> libraries;
  for (const auto& path : *files) {
    const std::string file = path.generic_string();
    if (is_header_name(file)) source.headers.push_back(file);
    if (has_library_name(file)) libraries.push_back(file);
    if (is_licence_name(file)) source.extra.push_back(file);
  }
  if (auto added = add_binaries(source, libraries); !added) return pass(added);
  return source;
}

std::vector<std::string> include_directories(const std::vector<std::string>& headers) {
  // A folder named include is what its name says, wherever it lies; a multi-arch folder inside it is one of its own.
  std::set<std::string> named;
  std::vector<fs::path> loose;
  for (const auto& header : headers) {
    fs::path root;
    fs::path walked;
    for (const auto& part : fs::path(header).parent_path()) {
      walked /= part;
      if (part == "include" && root.empty()) root = walked;
      const bool triplet =
          !root.empty() && walked.parent_path() == root && part.string().find("-linux-gnu") != std::string::npos;
      if (triplet) root = walked;
    }
    if (root.empty()) loose.push_back(fs::path(header).parent_path());
    if (!root.empty()) named.insert(root.generic_string());
  }
  std::vector<std::string> directories(named.begin(), named.end());
  if (loose.empty() || !directories.empty()) return directories;
  const auto shallowest = std::min_element(loose.begin(), loose.end(), [](const fs::path& a, const fs::path& b) {
    return std::distance(a.begin(), a.end()) < std::distance(b.begin(), b.end());
  });
  return {shallowest->empty() ? "." : shallowest->generic_string()};
}

}  // namespace fibula
