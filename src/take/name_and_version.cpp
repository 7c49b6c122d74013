#include "take/name_and_version.hpp"

#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "facts/library_name.hpp"
#include "facts/system_files.hpp"
#include "headers/header_folders.hpp"
#include "making/configure_script.hpp"
#include "os/files.hpp"
#include "take/naming.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// `libtidecalc.so.2.1.0` -> `2.1.0`: at least two numbers, since one alone is the interface's and not the library's.
std::string version_in_file_names(const Source& source) {
  for (const auto& binary : source.binaries) {
    std::error_code ignored;
    const std::string name = fs::canonical(source.root / binary.file, ignored).filename().string();
    const size_t at = name.find(".so.");
    if (at != std::string::npos && name.find('.', at + 4) != std::string::npos) return name.substr(at + 4);
  }
  return {};
}

/// What the version resources of DLLs say, where all agree or one has the library's name. The current version of a
/// macOS library (LC_ID_DYLIB) counts interfaces, as build tools write it, and is none.
std::string version_in_resources(const Source& source, const std::string& name) {
  std::set<std::string> said;
  for (const auto& binary : source.binaries) {
    const bool run_time = !maker_of_run_time_dll(fs::path(binary.file).filename().string()).empty();
    if (!binary.facts.file_version || binary.facts.format.value != Format::pe || run_time) continue;
    if (library_stem(binary.file) == name) return *binary.facts.file_version.value;
    said.insert(*binary.facts.file_version.value);
  }
  return said.size() == 1 ? *said.begin() : std::string();
}

Error cannot_have(const std::string& version, const Arrival& arrival) {
  return {.code = Code::refused,
          .what = fmt::format("cannot have the version \"{}\" on a shelf", version),
          .file = arrival.origin.path,
          .hint = "give it one of letters, digits and . + - _ ~ with --version"};
}

/// Folders that packers and build tools make, whatever library lies in them.
bool says_nothing(const std::string& name) {
  static constexpr std::string_view words[] = {
      "package", "dist", "out", "output",  "build",  "install", "prebuilt", "native", "files", "download", "unpacked",
      "lib",     "libs", "sdk", "release", "target", "stage",   "prefix",   "root",   "usr",   "tmp"};
  return std::find(std::begin(words), std::end(words), text::lower(name)) != std::end(words);
}

/// The name that all libraries have; empty where they differ.
std::string name_of_libraries(const Source& source) {
  std::set<std::string> stems;
  for (const auto& binary : source.binaries) stems.insert(library_stem(binary.file));
  return stems.size() == 1 && is_plain_name(*stems.begin()) ? *stems.begin() : std::string();
}

}  // namespace

std::string guessed_name(const Source& source, const TakeRequest& request) {
  if (!request.name.empty()) return request.name;
  // `tl/expected.hpp` is the library expected.
  if (is_header_name(request.library)) return fs::path(request.library).stem().string();
  if (!request.library.empty()) return request.library;
  if (!source.package.empty()) return library_of_package(source.package);
  const std::string called = split_name(source.called).name;
  const std::string libraries = says_nothing(called) ? name_of_libraries(source) : "";
  return libraries.empty() ? called : libraries;
}

Result<void> name_it(Source& source, const Arrival& arrival, const TakeRequest& request, Card& card) {
  card.name = guessed_name(source, request);
  if (!is_plain_name(card.name)) {
    return fail({.code = Code::refused,
                 .what = fmt::format("cannot be called \"{}\" on a shelf", card.name),
                 .file = arrival.origin.path,
                 .hint = "give it a name of letters, digits, - and _ with --name"});
  }
  if (!request.version.empty() && !is_plain_name(request.version)) return fail(cannot_have(request.version, arrival));
  const auto headers = version_in_headers(source, card.name);
  const std::string said = headers.own ? headers.version : "";
  for (const auto& candidate : {request.version, arrival.version, said, upstream_version(source.package_version),
                                split_name(source.called).version, version_in_resources(source, card.name),
                                source.code.empty() ? std::string() : configured_version(source.root)}) {
    if (!is_plain_name(candidate)) continue;
    // What says more of the same version says it better: 2.26.5 beside 2.26. A fourth number counts builds.
    const bool fuller = card.version != request.version && candidate.starts_with(card.version + ".") &&
                        std::count(candidate.begin(), candidate.end(), '.') < 3;
    if (card.version.empty() || fuller) card.version = candidate;
  }
  if (card.version.empty() && is_plain_name(headers.version)) {
    card.version = headers.version;
    source.remarks.push_back(fmt::format(
        "its version {} is that of macros {} in its headers, which need not be the library's own: --version sets it",
        headers.version, headers.prefix + "…"));
  }
  if (const auto guess = version_in_file_names(source); card.version.empty() && is_plain_name(guess)) {
    card.version = guess;
    source.remarks.push_back(fmt::format(
        "its version {} is that of a shared library's name, which need not be the library's own: --version sets it",
        guess));
  }
  if (card.version.empty() && request.ask) card.version = request.ask(fmt::format("version of {}", card.name));
  if (is_plain_name(card.version)) {
    if (!said.empty() && said != card.version && request.version.empty())
      source.remarks.push_back(fmt::format("its headers say version {}, its tag {}", said, card.version));
    return {};
  }
  if (!card.version.empty()) return fail(cannot_have(card.version, arrival));
  return fail({.code = Code::refused,
               .what = "does not say its version: not in its headers, its file names or its folder's name",
               .file = arrival.origin.path,
               .hint = "give it with --version"});
}

}  // namespace fibula
