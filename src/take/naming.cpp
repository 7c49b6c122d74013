#include "take/naming.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <cctype>

namespace fibula {
namespace {

bool is_digit(char c) {
  return std::isdigit(static_cast<unsigned char>(c)) != 0;
}

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
    while (end < text.size() && is_digit(text[end])) ++end;
    return end > start;
  };
  if (!digits()) return 0;
  while (end + 1 < text.size() && (text[end] == '.' || text[end] == '_') && is_digit(text[end + 1])) {
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

}  // namespace

NameHint split_name(std::string_view file) {
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

}  // namespace fibula
