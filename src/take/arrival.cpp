#include "take/arrival.hpp"

#include "base/address.hpp"
#include "base/text.hpp"
#include "binary/open.hpp"
#include "facts/library_name.hpp"
#include "headers/header_folders.hpp"
#include "os/download.hpp"
#include "os/file_digest.hpp"
#include "os/folder.hpp"

#include <fibula/cache.hpp>
#include <fibula/facts.hpp>
#include "shelf/storage.hpp"
#include "take/checkout.hpp"
#include "take/file_roles.hpp"
#include "take/merged_archives.hpp"
#include "take/naming.hpp"
#include "take/unpack.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

Error usage(std::string what, std::string file, std::string hint) {
  return {.code = Code::usage, .what = std::move(what), .file = std::move(file), .hint = std::move(hint)};
}

/// The end of a path or URL.
std::string last_part(std::string_view source) {
  source = source.substr(0, source.find_first_of("?#"));
  while (source.ends_with('/')) source.remove_suffix(1);
  return std::string(source.substr(source.rfind('/') + 1));
}

/// Downloads usually hold one folder with everything in it; that one is the library's. One that holds only headers is
/// part of how they are included.
fs::path unwrapped(const fs::path& folder) {
  std::error_code error;
  fs::path inner;
  for (auto entry = fs::directory_iterator(folder, error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    if (!inner.empty() || !entry->is_directory(error) || entry->is_symlink(error)) return folder;
    inner = entry->path();
  }
  if (inner.empty()) return folder;
  const std::string name = text::lower(inner.filename().string());
  if (name == "include" || name == "lib" || name == "usr" || name == "src") return folder;
  if (!split_name(name).version.empty()) return unwrapped(inner);
  for (auto entry = fs::directory_iterator(inner, error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    if (entry->is_directory(error) || !is_header_name(entry->path().string())) return unwrapped(inner);
  }
  return folder;
}

Result<void> check_digest(const TakeRequest& request, const std::string& source, const std::string& digest) {
  if (request.sha256.empty() || text::lower(request.sha256) == digest) return {};
  return fail({.code = Code::refused,
               .what = fmt::format("SHA-256 is {}, expected {}", digest, request.sha256),
               .file = source,
               .hint = "it is not the file that was meant: check the digest where you have it from"});
}

/// One file on its way into the place.
class FileArrival {
 public:
  FileArrival(const TakeRequest& request, const fs::path& place, Arrival& arrival)
      : request_(request), place_(place), arrival_(arrival) {}

  Result<void> take(const std::string& source) {
    if (!is_url(source)) return take_file(source, source);
    auto got = Downloader().get({.url = source,
                                 .sha256 = request_.sources.size() == 1 ? request_.sha256 : "",
                                 .folder = downloads_kept_in(),
                                 .limit = request_.limit,
                                 .progress = request_.progress});
    if (!got) return pass(got);
    arrival_.origin.sha256 = got->sha256;
    auto done = take_file(got->file, source);
    (void)remove_tree_in(got->file.parent_path(), got->file.filename().string());
    if (!done && done.error().file == got->file.string()) done.error().file = source;
    return done;
  }

 private:
  /// A download that was cut off goes on the next time, where something can be kept.
  fs::path downloads_kept_in() const {
    const fs::path cache = Cache::standard().folder();
    return cache.empty() ? place_ : cache / "downloads";
  }

  Result<void> take_file(const fs::path& file, const std::string& source) {
    if (arrival_.origin.sha256.empty() && request_.sources.size() == 1) {
      auto digest = sha256_of_file(file);
      if (!digest) return pass(digest);
      if (auto right = check_digest(request_, source, *digest); !right) return right;
      arrival_.origin.sha256 = *digest;
    }
    const std::string name = last_part(source);
    // Named together with a header, it is complete.
    const bool library = request_.sources.size() > 1 && has_library_name(name) && open_binary(file, 0);
    if (library) return take_library(file, name);
    if (is_archive(file)) return take_archive(file);
    if (is_header_name(name) || is_source_name(name)) return take_text(file, name);
    return fail(not_for_taking(file, source));
  }

  Result<void> take_archive(const fs::path& file) {
    auto unpacked = request_.sources.size() == 1 ? unpack_into(file, place_) : unpack_beside(file);
    if (!unpacked) return pass(unpacked);
    if (!unpacked->ended) {
      arrival_.remarks.push_back(fmt::format(
          "{} has no mark of its end: where that is not how it was made, it was cut off, and files are missing",
          file.filename().string()));
    }
    arrival_.origin.kind = unpacked->package.empty() ? "archive" : "package";
    if (unpacked->package.empty()) return {};
    // Of several packages the one with the headers names the library.
    if (arrival_.package.empty() ||
        library_of_package(unpacked->package).size() < library_of_package(arrival_.package).size()) {
      arrival_.package = unpacked->package;
      arrival_.package_version = unpacked->version;
    }
    return {};
  }

  Result<Unpacked> unpack_into(const fs::path& file, const fs::path& folder) const {
    return unpack(file, folder, {.bytes = request_.limit}, request_.progress);
  }

  /// One of several archives: what they all hold is kept once.
  Result<Unpacked> unpack_beside(const fs::path& file) {
    const std::string inside = ".fibula-arrived";
    const auto place = Folder::open(place_);
    if (!place) return fail(place.error());
    if (auto made = place->make_folder(inside); !made) return pass(made);
    auto unpacked = unpack_into(file, place_ / inside);
    if (!unpacked) return unpacked;
    auto left_out = merge_archive(*place, inside);
    if (!left_out) {
      left_out.error().file = file.string();
      return pass(left_out);
    }
    for (const auto& name : *left_out)
      arrival_.remarks.push_back(
          fmt::format("{} of {} left out: another archive has one of that name", name, file.filename().string()));
    return unpacked;
  }

  Result<void> take_library(const fs::path& file, const std::string& name) {
    const auto place = Folder::open(place_);
    if (!place) return fail(place.error());
    if (place->has_file(name))
      return fail(usage("has the name of another file that was named", file.string(),
                        "put both into a folder of their own each, and name the folders"));
    return place->copy_in(file, name);
  }

  /// A header or source by itself, under its own name.
  Result<void> take_text(const fs::path& file, const std::string& name) {
    if (auto text = check_text(file, name); !text) return text;
    const auto place = Folder::open(place_);
    return place ? place->copy_in(file, name) : fail(place.error());
  }

  /// What a server sends instead of a header is a page.
  static Result<void> check_text(const fs::path& file, const std::string& name) {
    auto content = read_text(file);
    if (!content) return pass(content);
    const auto head = text::lower(text::trim(std::string_view(*content).substr(0, 64)));
    if (!head.starts_with("<!doctype") && !head.starts_with("<html")) return {};
    return fail({.code = Code::not_a_library,
                 .what = fmt::format("is a web page, not {}", name),
                 .file = file.string(),
                 .hint = "download it again, from the link to the file itself"});
  }

  static Error not_for_taking(const fs::path& file, const std::string& source) {
    auto opened = open_binary(file, 0);
    if (!opened) {
      Error error = opened.error();
      error.file = source;
      return error;
    }
    return {.code = Code::refused,
            .what = "is one library file; a library is taken with the headers that belong to it",
            .file = source,
            .hint = "name the header too, or the folder or archive that holds both"};
  }

  const TakeRequest& request_;
  const fs::path& place_;
  Arrival& arrival_;
};

/// The end of a path or URL that says whose files they are: of several the first that is a header, since archives and
/// folders have names of their own.
std::string called_by(const std::vector<std::string>& sources) {
  const auto is_header = [](const std::string& source) { return is_header_name(last_part(source)); };
  const auto header = std::find_if(sources.begin(), sources.end(), is_header);
  std::string called = last_part(header == sources.end() ? sources.front() : *header);
  return sources.size() > 1 && has_library_name(called) ? library_stem(called) : called;
}

/// One of several folders, under its own name.
Result<void> take_folder(const fs::path& folder, const fs::path& place) {
  const auto files = files_below(folder);
  if (!files) return fail(files.error());
  std::vector<std::string> names;
  for (const auto& file : *files) {
    if (role_of(file.generic_string()) != Role::unwanted) names.push_back(file.generic_string());
  }
  return copy_files(folder, place / absolute_path(folder).filename(), names);
}

/// The name of one of several folders that belong to one library by their names: `tern-1.2` and `tern-win64-1.2`.
std::string common_name(const fs::path& place) {
  std::string found;
  std::error_code error;
  for (auto entry = fs::directory_iterator(place, error); !error && entry != fs::directory_iterator();
       entry.increment(error)) {
    const std::string name = entry->path().filename().string();
    if (!entry->is_directory(error) || split_name(name).version.empty()) return {};
    const auto hint = split_name(name), other = split_name(found);
    if (!found.empty() && (other.name != hint.name || other.version != hint.version)) return {};
    found = name;
  }
  return found;
}

Result<Arrival> arrive_files(const TakeRequest& request, const fs::path& place) {
  Arrival arrival{
      .root = place, .own = true, .origin = {.kind = "file", .path = without_secrets(request.sources.front())}};
  if (!is_url(arrival.origin.path)) arrival.origin.path = absolute_path(arrival.origin.path).string();
  arrival.called = called_by(request.sources);
  FileArrival files(request, place, arrival);
  for (const auto& source : request.sources) {
    std::error_code ignored;
    auto taken = fs::is_directory(source, ignored) ? take_folder(source, place) : files.take(source);
    if (!taken) return pass(taken);
  }
  arrival.root = unwrapped(place);
  // The folder inside says it better than `download.zip` or `v2.1.0.tar.gz`.
  const std::string inside = arrival.root == place ? common_name(place) : arrival.root.filename().string();
  if (!inside.empty() && split_name(arrival.called).version.empty() && !split_name(inside).version.empty())
    arrival.called = inside;
  return arrival;
}

Result<Arrival> arrive_repository(const TakeRequest& request, const fs::path& place) {
  const std::string& source = request.sources.front();
  auto commit = checkout({source, request.at, request.submodules}, place);
  if (!commit) return pass(commit);
  Arrival arrival{
      .root = place, .own = true, .origin = {.kind = "repository", .path = without_secrets(source), .commit = *commit}};
  if (!is_url(source)) arrival.origin.path = absolute_path(source).string();
  arrival.called = last_part(source);
  if (arrival.called.ends_with(".git")) arrival.called.resize(arrival.called.size() - 4);
  // A tag is a version, with or without the library's name before it.
  arrival.version = split_name("x-" + request.at).version;
  if (arrival.version.empty()) arrival.version = split_name(request.at).version;
  return arrival;
}

Result<void> check_request(const TakeRequest& request) {
  if (request.sources.empty()) return fail(usage("names nothing to take", "", "name a folder, an archive or a URL"));
  const std::string& first = request.sources.front();
  std::error_code ignored;
  for (const auto& source : request.sources) {
    if (request.sources.size() > 1 && is_repository(source))
      return fail(usage("cannot be taken together with another source", source,
                        "only files and folders can be taken together"));
  }
  if (request.in_place && request.portable)
    return fail(usage("cannot stay where it is and be kept in the project too", first, "leave --in-place out"));
  if (request.in_place && !fs::exists(first, ignored))
    return fail({.code = Code::absent, .what = "is not there", .file = first});
  const bool folder = request.sources.size() == 1 && fs::is_directory(first, ignored) && request.at.empty();
  if (request.in_place && !folder)
    return fail(usage("cannot stay where it is: only a folder can", first, "leave --in-place out"));
  if (!request.library.empty() && !folder)
    return fail(usage("is no prefix", first, "--library names one library of a folder such as /usr"));
  if (!request.sha256.empty() && (folder || request.sources.size() > 1 || is_repository(first)))
    return fail(usage("has no digest of its own", first, "--sha256 is for one file"));
  return {};
}

}  // namespace

Result<Arrival> arrive(const TakeRequest& request, const fs::path& place) {
  if (auto checked = check_request(request); !checked) return pass(checked);
  const std::string& first = request.sources.front();
  if (!request.at.empty() || request.submodules || is_repository(first)) return arrive_repository(request, place);
  std::error_code ignored;
  if (request.sources.size() == 1 && !is_url(first) && fs::is_directory(first, ignored)) {
    const char* kind = request.library.empty() ? "folder" : "prefix";
    const fs::path root = absolute_path(first);
    return Arrival{.root = root,
                   .origin = {.kind = kind, .path = request.called_from.empty() ? root.string() : request.called_from},
                   .called = root.filename().string()};
  }
  return arrive_files(request, place);
}

}  // namespace fibula
