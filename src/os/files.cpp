#include "os/files.hpp"

#include "base/text.hpp"
#include "os/plain_path.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <span>

namespace fibula {
Error io_error(const fs::path& path, std::string_view doing, const std::error_code& error) {
  const char* remedy = "check the permissions of the folder";
  if (error == std::errc::no_space_on_device) remedy = "make room on the disk";
  if (error == std::errc::file_too_large) remedy = "raise the limit for a file's size: ulimit -f";
  if (error == std::errc::too_many_files_open) remedy = "raise the limit for open files: ulimit -n";
  return {
      .code = Code::io, .what = fmt::format("{}: {}", doing, error.message()), .file = path.string(), .hint = remedy};
}

Error io_error(const fs::path& path, std::string_view doing, int number) {
  return io_error(path, doing, std::error_code(number, std::generic_category()));
}

Result<void> make_folder(const fs::path& path) {
  std::error_code error;
  fs::create_directories(path, error);
  if (error) return fail(io_error(path, "cannot be made", error));
  return {};
}

/// Deeper than any tree that people made; each path of it costs what all above it do.
constexpr int deepest_folder = 256;

Result<std::vector<fs::path>> files_below(const fs::path& root, size_t limit) {
  std::error_code error;
  std::vector<fs::path> found;
  auto walk = fs::recursive_directory_iterator(root, error);
  for (; !error && walk != fs::recursive_directory_iterator(); walk.increment(error)) {
    std::error_code gone;
    if (!walk->is_directory(gone) || walk->is_symlink(gone)) found.push_back(walk->path().lexically_relative(root));
    if (walk.depth() > deepest_folder) {
      return fail({.code = Code::limit,
                   .what = fmt::format("holds folders more than {} deep", deepest_folder),
                   .file = root.string(),
                   .hint = "name the folder of one library"});
    }
    if (found.size() > limit) {
      return fail({.code = Code::limit,
                   .what = fmt::format("holds more than {} files", limit),
                   .file = root.string(),
                   .hint = "name the folder of one library"});
    }
  }
  if (error) {
    const auto code = error == std::errc::no_such_file_or_directory ? Code::absent : Code::unreadable;
    return fail({.code = code, .what = error.message(), .file = root.string()});
  }
  std::sort(found.begin(), found.end());
  return found;
}

std::vector<fs::path> files_directly_in(const fs::path& folder) {
  std::vector<fs::path> found;
  std::error_code error;
  for (auto entry = fs::directory_iterator(folder, error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    std::error_code gone;
    if (!entry->is_directory(gone)) found.push_back(entry->path().filename());
  }
  std::sort(found.begin(), found.end());
  return found;
}

namespace {

/// A pattern's folder without wildcards, and the rest.
struct Glob {
  fs::path start;
  std::string_view rest;  ///< empty: the pattern is a name
  bool deep = false;      ///< folders below are searched too
};

Glob glob_of(const fs::path& root, std::string_view pattern) {
  const size_t wild = pattern.find_first_of("*?");
  if (wild == std::string_view::npos) return {root / pattern, {}};
  const size_t slash = pattern.rfind('/', wild);
  Glob glob{slash == std::string_view::npos ? root : root / pattern.substr(0, slash),
            slash == std::string_view::npos ? pattern : pattern.substr(slash + 1)};
  glob.deep = glob.rest.find('/') != std::string_view::npos || glob.rest.find("**") != std::string_view::npos;
  return glob;
}

/// What matches a pattern without `**`, part by part: folders that no part names are not looked into.
void match_parts(const fs::path& folder, std::span<const std::string_view> parts, std::vector<fs::path>& found) {
  if (parts.size() == 1) {
    for (const auto& file : files_directly_in(folder)) {
      if (text::glob_matches(parts.front(), file.generic_string())) found.push_back(folder / file);
    }
    return;
  }
  std::error_code error;
  for (auto entry = fs::directory_iterator(folder, error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    std::error_code ignored;
    const bool is_folder = entry->is_directory(ignored) && !entry->is_symlink(ignored);
    if (is_folder && text::glob_matches(parts.front(), entry->path().filename().generic_string()))
      match_parts(entry->path(), parts.subspan(1), found);
  }
}

}  // namespace

std::vector<fs::path> files_matching(const fs::path& root, std::string_view pattern) {
  const Glob glob = glob_of(root, pattern);
  if (glob.rest.empty()) {
    std::error_code ignored;
    return fs::is_regular_file(glob.start, ignored) ? std::vector{glob.start} : std::vector<fs::path>{};
  }
  std::vector<fs::path> found;
  if (glob.rest.find("**") == std::string_view::npos) {
    match_parts(glob.start, text::split(glob.rest, '/'), found);
    std::sort(found.begin(), found.end());
    return found;
  }
  for (const auto& file :
       glob.deep ? files_below(glob.start).value_or(std::vector<fs::path>{}) : files_directly_in(glob.start)) {
    if (text::glob_matches(glob.rest, file.generic_string())) found.push_back(glob.start / file);
  }
  return found;
}

std::vector<fs::path> folders_searched(const fs::path& root, std::string_view pattern) {
  const Glob glob = glob_of(root, pattern);
  if (glob.rest.empty()) return {};
  std::vector<fs::path> folders{glob.start};
  if (!glob.deep) return folders;
  std::error_code error;
  for (fs::recursive_directory_iterator entry(glob.start, error), end; !error && entry != end; entry.increment(error)) {
    if (!entry->is_directory(error) || entry->is_symlink(error)) continue;
    if (entry->path().filename() == ".fibula") {
      entry.disable_recursion_pending();
    } else {
      folders.push_back(entry->path());
    }
  }
  return folders;
}

bool is_full(const fs::path& folder) {
  constexpr uintmax_t some = 1U << 20U;
  std::error_code unknown;
  const fs::space_info space = fs::space(folder, unknown);
  return !unknown && space.available < some;
}

fs::path absolute_path(const fs::path& path) {
  std::error_code gone;
  const fs::path whole = fs::absolute(path.empty() ? fs::path(".") : path, gone);
  const fs::path normal = (gone ? path : whole).lexically_normal();
  return normal.has_filename() || normal == normal.root_path() ? normal : normal.parent_path();
}

/// What is behind a folder in a path, when neither has a detour; nothing when that takes more than comparing texts.
static std::string_view plainly_inside(const std::string& folder, const std::string& path) {
  const bool begins =
      !folder.empty() && path.size() > folder.size() + 1 && path.starts_with(folder) && path[folder.size()] == '/';
  const bool plain = begins && !has_detours(std::string_view(path).substr(folder.size())) && path.back() != '/';
  return plain ? std::string_view(path).substr(folder.size() + 1) : std::string_view();
}

bool is_inside(const fs::path& folder, const fs::path& path) {
  if (!plainly_inside(folder.native(), path.native()).empty()) return true;
  const auto relative = path.lexically_normal().lexically_relative(folder.lexically_normal());
  return !relative.empty() && *relative.begin() != "..";
}

std::string shown_from(const fs::path& base, const fs::path& path) {
  if (const auto inside = plainly_inside(base.native(), path.native()); !inside.empty()) return std::string(inside);
  return is_inside(base, path) ? path.lexically_relative(base).generic_string() : path.generic_string();
}

std::optional<std::string> environment(const char* name) {
  const char* value = std::getenv(name);
  if (value == nullptr || *value == '\0') return std::nullopt;
  return value;
}

TemporaryFolder::~TemporaryFolder() {
  std::error_code ignored;
  if (!path_.empty()) fs::remove_all(path_, ignored);
}

}  // namespace fibula
