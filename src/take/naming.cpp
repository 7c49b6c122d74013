#include "take/naming.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <cctype>

namespace fibula {
namespace {

bool is_letter(char c) {
  return std::isalpha(static_cast<unsigned char>(c)) != 0;
}

std::string_view without_ending(std::string_view file) {
  const std::string name = text::lower(file);
  for (const std::string_view ending :
       {".tar.gz", ".tar.xz", ".tar.bz2", ".tar.zst", ".tar.lz4", ".tar.lzma", ".tgz", ".txz",
        ".tbz2",   ".tbz",    ".tar",     ".zip",     ".7z",      ".deb",      ".rpm", ".git",
        ".hpp",    ".hxx",    ".hh",      ".h",       ".c",       ".cpp",      ".cc",  ".cxx"}) {
    if (name.size() > ending.size() && name.ends_with(ending)) return file.substr(0, file.size() - ending.size());
  }
  return file;
}

/// How much of the text is a version: `2.1.0-rc1` of `2.1.0-rc1-win64`.
size_t version_length(std::string_view text) {
  size_t end = 0;
  const auto digits = [&] {
    const size_t start = end;
    while (end < text.size() && text::is_digit(text[end])) ++end;
    return end > start;
  };
  if (!digits()) return 0;
  while (end + 1 < text.size() && (text[end] == '.' || text[end] == '_') && text::is_digit(text[end + 1])) {
    ++end;
    digits();
  }
  // A letter at once (1.1.1w), or a word for what comes before a release.
  const size_t plain = end;
  size_t word = end < text.size() && (text[end] == '-' || text[end] == '.' || text[end] == '_') ? end + 1 : end;
  size_t stop = word;
  while (stop < text.size() && is_letter(text[stop])) ++stop;
  const std::string name = text::lower(text.substr(word, stop - word));
  const bool early = name == "rc" || name == "alpha" || name == "beta" || name == "pre" || name == "a" || name == "b" ||
                     (word == plain && name.size() == 1);
  if (!early) return plain;
  end = stop;
  if (end < text.size() && text[end] == '.') ++end;
  if (!digits() && end > stop) end = stop;
  return end;
}

/// What packers hang on a library's name: the system, machine, compiler or kind that a download is for.
constexpr std::string_view builds[] = {
    "win",     "win32",     "win64",    "windows", "linux",   "linux32",   "linux64",   "linuxmusl", "mac",
    "macos",   "macosx",    "darwin",   "osx",     "ios",     "android",   "x64",       "x86",       "x86_64",
    "x86-64",  "amd64",     "i386",     "i586",    "i686",    "ia32",      "32bit",     "64bit",     "arm",
    "arm64",   "armv6",     "armv7",    "armv7l",  "armv8",   "armhf",     "aarch64",   "riscv64",   "ppc64",
    "ppc64el", "loong64",   "mips64el", "wasm32",  "ppc64le", "s390x",     "universal", "musl",      "glibc",
    "gnu",     "gnueabihf", "mingw",    "mingw32", "mingw64", "mingw-w64", "ucrt",      "static",    "shared",
    "debug",   "release",   "dev",      "devel",   "bin",     "binaries",  "prebuilt"};

/// `msvc`, `vc143`, `vs2022`: a compiler with its year or version.
bool is_msvc(std::string_view word) {
  for (const std::string_view name : {"msvc", "vc", "vs"}) {
    if (!word.starts_with(name)) continue;
    const auto rest = word.substr(name.size());
    if (std::all_of(rest.begin(), rest.end(), text::is_digit)) return true;
  }
  return false;
}

/// How long the word at the end of a name is that tells a build, with what joins it to the name; 0 without one.
size_t build_length(std::string_view small) {
  const auto ends = [&](std::string_view word) {
    return small.size() > word.size() + 1 && small.ends_with(word) &&
           std::string_view("-_.").find(small[small.size() - word.size() - 1]) != std::string_view::npos;
  };
  const auto* known = std::find_if(std::begin(builds), std::end(builds), ends);
  if (known != std::end(builds)) return known->size() + 1;
  const size_t last = small.find_last_of("-_.");
  const auto word = last == std::string_view::npos ? std::string_view() : small.substr(last + 1);
  return is_msvc(word) && ends(word) ? word.size() + 1 : 0;
}

/// `tidecalc-win32-x64` -> `tidecalc`: downloads of one library for several systems have one name.
std::string without_build(std::string name) {
  while (const size_t length = build_length(text::lower(name))) name.erase(name.size() - length);
  return name;
}

/// The name with the words behind it, and the version.
NameHint cut_at_version(std::string_view file) {
  const std::string_view stem = without_ending(file);
  for (size_t at = 1; at < stem.size(); ++at) {
    if (stem[at] != '-' && stem[at] != '_') continue;
    size_t digit = at + 1;
    if (digit < stem.size() && std::string_view("vVrR").find(stem[digit]) != std::string_view::npos) {
      ++digit;
      if (digit < stem.size() && stem[digit] == '_') ++digit;
    }
    const size_t length = version_length(stem.substr(digit));
    const size_t end = digit + length;
    // `tide-3d` is a name; a version ends where a word does.
    if (length == 0 || (end < stem.size() && std::isalnum(static_cast<unsigned char>(stem[end])) != 0)) continue;
    std::string version(stem.substr(digit, length));
    // `libusb-1.0_1.0.26`: the first number belongs to the name.
    if (const size_t bar = version.rfind('_');
        bar != std::string::npos && version.find('.') < bar && version.find('.', bar) != std::string::npos)
      return {std::string(stem.substr(0, digit + bar)), version.substr(bar + 1)};
    if (version.find('.') == std::string::npos) std::replace(version.begin(), version.end(), '_', '.');
    return {std::string(stem.substr(0, at)), std::move(version)};
  }
  return {std::string(stem), {}};
}

}  // namespace

NameHint split_name(std::string_view file) {
  NameHint hint = cut_at_version(file);
  hint.name = without_build(std::move(hint.name));
  return hint;
}

std::string upstream_version(std::string_view text) {
  if (const size_t epoch = text.find(':'); epoch != std::string_view::npos) text.remove_prefix(epoch + 1);
  if (const size_t revision = text.rfind('-'); revision != std::string_view::npos) text = text.substr(0, revision);
  for (const std::string_view mark : {"+dfsg", ".dfsg", "~dfsg", "+ds", "+repack", "+really"}) {
    if (const size_t at = text.find(mark); at != std::string_view::npos) text = text.substr(0, at);
  }
  return std::string(text);
}

std::string library_of_package(std::string_view package) {
  if (package.starts_with("lib") && package.size() > 3) package.remove_prefix(3);
  for (const std::string_view ending : {"-dev", "-devel"}) {
    if (package.ends_with(ending)) package.remove_suffix(ending.size());
  }
  return std::string(package);
}

std::string macro_name(std::string_view name) {
  std::string macro = text::upper(name);
  for (char& c : macro) {
    if (!text::is_identifier_character(c)) c = '_';
  }
  return macro;
}

}  // namespace fibula
