/// One library among many under a prefix such as /usr.
///
/// Where the system's package manager put the files, its own lists say which belong together (dpkg's
/// `info/<package>.list`, one path a line). Elsewhere names must do: `libNAME.*`, `NAME.h`, a folder of headers called
/// NAME.
#include "base/text.hpp"
#include "facts/library_name.hpp"
#include "headers/header_folders.hpp"
#include "os/files.hpp"
#include "os/host.hpp"
#include "take/file_roles.hpp"
#include "take/source.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

const fs::path dpkg_folder = "/var/lib/dpkg";

/// Spellings under which a library's files may be found: zlib is `libz` and `zlib.h`.
std::vector<std::string> stems(const std::string& library) {
  std::vector<std::string> found{library};
  if (library.starts_with("lib")) found.push_back(library.substr(3));
  if (library.ends_with("lib") && library.size() > 3) found.push_back(library.substr(0, library.size() - 3));
  return found;
}

bool names_library(const fs::path& file, const std::string& stem) {
  const std::string name = file.filename().string();
  if (name == stem + ".lib" || name == stem + ".dll") return true;
  return name.starts_with("lib" + stem) &&
         (name == "lib" + stem + ".a" || name == "lib" + stem + ".so" || name == "lib" + stem + ".dll.a");
}

/// Folders of a prefix in which linkers and loaders look: others hold plugins, and files for other machines.
bool is_searched(const fs::path& file) {
  const auto folder = file.parent_path();
  if (folder == "lib" || folder == "lib64" || folder == "lib32" || folder == "libx32" || folder == "bin") return true;
  // A multi-arch folder, "lib/x86_64-linux-gnu".
  const std::string name = folder.filename().string();
  return folder.parent_path() == "lib" && std::count(name.begin(), name.end(), '-') >= 2;
}

/// A folder for what this machine runs, so that of two packages with one library its own is taken.
bool is_native(const fs::path& file) {
  const std::string folder = file.parent_path().filename().string();
  return folder == "lib" || folder.starts_with(to_string(host_architecture()));
}

/// `NAME.h`, a header's own path (`tl/expected.hpp`), or anything in a folder of headers called NAME.
bool names_header(const fs::path& file, const fs::path& include, const std::string& library) {
  if (!is_inside(include, file)) return false;
  const std::string name = file.filename().string();
  return name == library + ".h" || name == library + ".hpp" || file == include / library ||
         is_inside(include / library, file);
}

/// The library's own configuration for pkg-config: the name by which its makers call it.
bool names_configuration(const fs::path& file, const std::string& library) {
  return file.filename() == library + ".pc" && file.parent_path().filename() == "pkgconfig";
}

/// `libtide3-dev` or `tide-dev` for tide: libraries of headers only are found by their package's name.
bool names_package(std::string_view package, const std::string& library) {
  package = package.substr(0, package.find(':'));
  if (!package.ends_with("-dev")) return false;
  package.remove_suffix(4);
  if (package.starts_with("lib")) package.remove_prefix(3);
  if (!package.starts_with(library)) return package == library;
  return package.find_first_not_of("0123456789.", library.size()) == std::string_view::npos;
}

/// How well one package's list answers the question: it has the library, the header, or both.
int score(const std::string& package, std::span<const std::string_view> files, const fs::path& prefix,
          const std::string& library) {
  const auto names = stems(library);
  bool has_library = false, has_header = false, has_any = false, native = false;
  for (const auto line : files) {
    const fs::path file(line);
    // A package of this machine says nothing of a system that lies below a folder.
    has_any = has_any || (is_inside(prefix, file) && has_library_name(file)) || is_inside(prefix / "include", file);
    const bool named =
        is_inside(prefix, file) && is_searched(file.lexically_relative(prefix)) &&
        std::any_of(names.begin(), names.end(), [&](const std::string& stem) { return names_library(file, stem); });
    has_library = has_library || named;
    native = native || (named && is_native(file));
    has_header = has_header || names_header(file, prefix / "include", library) || names_configuration(file, library);
  }
  const bool named = has_header || names_package(package, library);
  const int kind = named && has_library ? 3 : has_library ? 2 : named && has_any ? 1 : 0;
  return kind * 2 + (native ? 1 : 0);
}

struct Package {
  std::string name;
  std::string list;
  int score = 0;
};

Package best_package(const fs::path& prefix, const std::string& library) {
  Package best;
  const auto spellings = stems(library);
  std::error_code error;
  for (auto entry = fs::directory_iterator(dpkg_folder / "info", error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    if (entry->path().extension() != ".list") continue;
    auto content = read_text(entry->path());
    if (!content) continue;
    // Most lists name neither the library nor its header: they are passed over without being taken apart.
    if (std::none_of(spellings.begin(), spellings.end(),
                     [&](const std::string& stem) { return content->find(stem) != std::string::npos; }))
      continue;
    const auto named = [&](const std::string& stem) { return content->find("/lib" + stem + ".") != std::string::npos; };
    const std::string name = entry->path().stem().string();
    if (content->find("/" + library + ".h") == std::string::npos &&
        content->find("/include/" + library) == std::string::npos &&
        content->find("/pkgconfig/" + library + ".pc\n") == std::string::npos && !names_package(name, library) &&
        std::none_of(spellings.begin(), spellings.end(), named))
      continue;
    const auto lines = text::lines(*content);
    const int found = score(name, lines, prefix, library);
    if (found > best.score || (found == best.score && found > 0 && name < best.name))
      best = {name, std::move(*content), found};
  }
  return best;
}

/// The records of dpkg's status file: "Package: …" and its fields.
std::vector<std::string_view> status_records(std::string_view status) {
  std::vector<std::string_view> records;
  for (size_t at = 0; at < status.size();) {
    const size_t end = std::min(status.find("\n\n", at), status.size());
    records.push_back(status.substr(at, end - at));
    at = end + 2;
  }
  return records;
}

std::string_view field_of(std::string_view record, std::string_view name) {
  for (const auto line : text::lines(record)) {
    if (line.starts_with(name) && line.substr(name.size()).starts_with(": ")) return line.substr(name.size() + 2);
  }
  return {};
}

/// Some packages have the library under its plain name, and leave the headers to another one, which depends on them.
std::string list_of_development(const std::string& package) {
  const std::string plain = package.substr(0, package.find(':'));
  const auto status = read_text(dpkg_folder / "status", 256U << 20U);
  if (!status) return {};
  for (const auto record : status_records(*status)) {
    const std::string name(field_of(record, "Package"));
    const auto depends = field_of(record, "Depends");
    if (!name.ends_with("-dev") || depends.find(plain + " (=") == std::string_view::npos) continue;
    for (const auto& file : {name, name + package.substr(plain.size())}) {
      if (auto list = read_text(dpkg_folder / "info" / (file + ".list"))) return std::move(*list);
    }
  }
  return {};
}

std::string package_version(std::string_view package) {
  const std::string_view plain = package.substr(0, package.find(':'));
  const auto status = read_text(dpkg_folder / "status", 256U << 20U);
  if (!status) return {};
  for (const auto record : status_records(*status)) {
    if (field_of(record, "Package") == plain) return std::string(field_of(record, "Version"));
  }
  return {};
}

/// Sorts a list of absolute paths into headers and libraries below the prefix.
void sort_files(const fs::path& prefix, std::span<const std::string_view> files, Source& source,
                std::vector<std::string>& libraries) {
  for (const auto line : files) {
    const fs::path path(line);
    if (!is_inside(prefix, path)) continue;
    const std::string file = path.lexically_relative(prefix).generic_string();
    std::error_code ignored;
    if (!fs::exists(path, ignored) || fs::is_directory(path, ignored)) continue;
    if (file.starts_with("include/") && role_of(file) == Role::header) source.headers.push_back(file);
    if (!has_library_name(file)) continue;
    if (is_searched(file)) {
      libraries.push_back(file);
    } else if (file.starts_with("lib")) {
      source.remarks.push_back(file + " is in none of the folders where linkers look, and left out");
    }
  }
}

/// Without lists: what the names say. The folders are those that linkers search, with one level for multi-arch.
std::vector<std::string> files_by_name(const fs::path& prefix, const std::string& library) {
  std::vector<std::string> found;
  const auto names = stems(library);
  for (const char* pattern : {"lib/*", "lib/*/*", "lib64/*", "lib32/*"}) {
    for (const auto& path : files_matching(prefix, pattern)) {
      const auto fits = [&](const std::string& stem) { return names_library(path, stem); };
      if (std::any_of(names.begin(), names.end(), fits)) found.push_back(path.generic_string());
    }
  }
  for (const auto& name : names) {
    for (const std::string& pattern :
         {"include/" + name + ".h", "include/" + name + ".hpp", "include/" + name, "include/" + name + "/**"}) {
      for (const auto& path : files_matching(prefix, pattern)) found.push_back(path.generic_string());
    }
  }
  return found;
}

/// The shared form beside an archive of the library's own name: some packages leave it to the one with run-time files.
void add_shared_forms(const fs::path& prefix, const std::string& library, std::vector<std::string>& libraries) {
  for (const auto& stem : stems(library)) {
    const auto archive = std::find_if(libraries.begin(), libraries.end(), [&](const std::string& file) {
      return fs::path(file).filename() == "lib" + stem + ".a";
    });
    if (archive == libraries.end()) continue;
    const std::string shared = fs::path(*archive).replace_extension(".so").generic_string();
    std::error_code ignored;
    const bool known = std::find(libraries.begin(), libraries.end(), shared) != libraries.end();
    if (!known && fs::exists(prefix / shared, ignored)) libraries.push_back(shared);
  }
}

/// A package can hold several libraries that define the same names, for different ends: the one that was asked for
/// comes first, and a link takes the first that serves.
void put_named_first(const std::string& library, std::vector<std::string>& libraries) {
  const auto names = stems(library);
  std::stable_partition(libraries.begin(), libraries.end(), [&](const std::string& file) {
    return std::any_of(names.begin(), names.end(), [&](const auto& stem) { return names_library(file, stem); });
  });
}

/// What of the prefix can be asked for by name: its libraries, and headers at the top of its include folder.
std::vector<std::string> names_in(const fs::path& prefix) {
  std::set<std::string> names;
  for (const char* pattern : {"lib/*", "lib/*-*-*/*", "lib64/*"}) {
    for (const auto& file : files_matching(prefix, pattern)) {
      if (has_library_name(file)) names.insert(library_stem(file));
    }
  }
  for (const auto& file : files_matching(prefix, "include/*.h")) names.insert(file.stem().string());
  return {names.begin(), names.end()};
}

/// The package that would bring the library, by its name, as far as apt's lists are kept as text; empty elsewhere.
std::string package_to_install(const std::string& library) {
  constexpr std::string_view field = "\nPackage: ";
  for (const auto& file : files_directly_in("/var/lib/apt/lists")) {
    if (!file.string().ends_with("_Packages")) continue;
    const auto text = read_text(fs::path("/var/lib/apt/lists") / file, 256U << 20U);
    if (!text) continue;
    for (const std::string& start : {std::string(field) + "lib" + library, std::string(field) + library}) {
      for (size_t at = text->find(start); at != std::string::npos; at = text->find(start, at + 1)) {
        const auto name = std::string_view(*text).substr(at + field.size());
        const auto package = name.substr(0, name.find('\n'));
        if (names_package(package, library)) return std::string(package);
      }
    }
  }
  return {};
}

Error not_in_prefix(const fs::path& prefix, const std::string& library) {
  Error error{.code = Code::refused,
              .what = is_header_name(library)
                          ? fmt::format("has no library with a header {}", library)
                          : fmt::format("has no library {0}: no lib{0}.a or .so, no {0}.h, no {0}.pc", library),
              .file = prefix.string()};
  const std::string meant = text::closest(library, names_in(prefix));
  const std::string package = prefix == "/usr" ? package_to_install(library) : std::string();
  if (!package.empty()) {
    error.hint = fmt::format("its package is not installed: apt install {}", package);
  } else if (meant == library) {
    error.hint = "only its run-time file is here: install its development package";
  } else if (!meant.empty()) {
    error.hint = fmt::format("did you mean {}?", meant);
  } else {
    error.hint = "install its development package, or give --library the name of its .a or .so without lib";
  }
  return error;
}

}  // namespace

Result<Source> source_in_prefix(const fs::path& prefix, const std::string& library) {
  Source source{.root = absolute_path(prefix), .from_prefix = true};
  std::error_code error;
  if (!fs::is_directory(prefix, error))
    return fail({.code = Code::absent, .what = "is not a folder", .file = prefix.string()});
  std::vector<std::string> libraries;
  const Package package = best_package(source.root, library);
  if (package.score > 0) {
    sort_files(source.root, text::lines(package.list), source, libraries);
    std::string with_headers;
    if (source.headers.empty()) with_headers = list_of_development(package.name);
    sort_files(source.root, text::lines(with_headers), source, libraries);
    add_shared_forms(source.root, library, libraries);
    source.package = package.name;
    source.package_version = package_version(package.name);
    source.remarks.push_back(fmt::format("its files are those of the system package {}", package.name));
  } else {
    const auto files = files_by_name(source.root, library);
    sort_files(source.root, std::vector<std::string_view>(files.begin(), files.end()), source, libraries);
  }
  if (source.headers.empty() && libraries.empty()) {
    return fail(not_in_prefix(source.root, library));
  }
  put_named_first(library, libraries);
  if (auto added = add_binaries(source, libraries); !added) return pass(added);
  return source;
}

}  // namespace fibula
