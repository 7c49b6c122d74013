/// What the text of public headers tells of the version.
#include "base/text.hpp"
#include "os/files.hpp"
#include "take/source.hpp"

#include <algorithm>
#include <cctype>
#include <map>
#include <span>

namespace fibula {
namespace {

/// `sqlite3` -> `SQLITE`: what its macros begin with.
std::string macro_prefix(std::string_view name) {
  std::string prefix;
  for (const char c : name) {
    if (std::isalnum(static_cast<unsigned char>(c)) != 0)
      prefix += static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
  }
  while (!prefix.empty() && std::isdigit(static_cast<unsigned char>(prefix.back())) != 0) prefix.pop_back();
  return prefix;
}

std::string without_underscores(std::string_view text) {
  std::string result(text);
  std::erase(result, '_');
  return result;
}

bool is_version_text(std::string_view value) {
  const bool digits = !value.empty() && std::isdigit(static_cast<unsigned char>(value[0])) != 0;
  return digits && value.find('.') != std::string_view::npos && value.find_first_of(" ,:/") == std::string_view::npos;
}

using Macros = std::map<std::string, std::string>;

/// Words with which macros spell a version or a part of it, without underscores.
constexpr std::string_view wholes[] = {"VERSION",     "VERSIONSTRING", "VERSIONSTR",  "VERSIONTEXT", "LIBVERSION",
                                       "VERSIONFULL", "FULLVERSION",   "VERSIONNAME", "VER"};
constexpr std::string_view majors[] = {"VERSIONMAJOR", "MAJORVERSION", "VERMAJOR", "MAJOR", "VMAJOR"};
constexpr std::string_view minors[] = {"VERSIONMINOR", "MINORVERSION", "VERMINOR", "MINOR", "VMINOR"};
constexpr std::string_view patches[] = {"VERSIONPATCH",    "PATCHVERSION",   "VERSIONMICRO", "MICROVERSION",
                                        "VERSIONREVISION", "VERSIONRELEASE", "VERSIONBUILD", "VERSIONPATCHLEVEL",
                                        "PATCHLEVEL",      "VERPATCH",       "PATCH",        "MICRO",
                                        "REVISION",        "RELEASE",        "VERREVISION",  "VPATCH"};

bool speaks_of_version(std::string_view line) {
  return line.find("VERSION") != std::string_view::npos || line.find("MAJOR") != std::string_view::npos ||
         line.find("MINOR") != std::string_view::npos || line.find("PATCH") != std::string_view::npos ||
         line.find("MICRO") != std::string_view::npos || line.find("REVISION") != std::string_view::npos ||
         line.find("RELEASE") != std::string_view::npos || line.find("_VER") != std::string_view::npos;
}

/// `#define NAME value` of every header; names without underscores, values without quotes.
Macros macros_of(const Source& source) {
  Macros macros;
  for (const auto& header : source.headers) {
    const auto content = read_text(source.root / header);
    if (!content) continue;
    for (std::string_view line : text::lines(*content)) {
      line = text::trim(line);
      if (!line.starts_with('#') || !speaks_of_version(line)) continue;
      const auto words = text::words(line.substr(1));
      if (words.size() < 3 || words[0] != "define") continue;
      std::string_view value = words[2];
      if (value.size() > 1 && value.front() == '"' && value.back() == '"') value = value.substr(1, value.size() - 2);
      macros.emplace(text::upper(without_underscores(words[1])), value);
    }
  }
  return macros;
}

std::string whole_version(const Macros& macros, const std::string& prefix) {
  for (const auto ending : wholes) {
    const auto found = macros.find(prefix + std::string(ending));
    if (found != macros.end() && is_version_text(found->second)) return found->second;
  }
  return {};
}

/// The number that a macro of one of these endings gives; empty where there is none.
std::string part(const Macros& macros, const std::string& prefix, std::span<const std::string_view> endings) {
  for (const auto ending : endings) {
    const auto found = macros.find(prefix + std::string(ending));
    if (found == macros.end() || found->second.empty()) continue;
    // `2`, `2U`, `(2)`.
    std::string digits = found->second;
    std::erase_if(digits, [](char c) { return c == '(' || c == ')' || c == 'u' || c == 'U' || c == 'l' || c == 'L'; });
    if (!digits.empty() && digits.find_first_not_of("0123456789") == std::string::npos) return digits;
  }
  return {};
}

std::string parted_version(const Macros& macros, const std::string& prefix) {
  const auto major = part(macros, prefix, majors), minor = part(macros, prefix, minors);
  if (major.empty() || minor.empty()) return {};
  const auto patch = part(macros, prefix, patches);
  return major + "." + minor + (patch.empty() ? "" : "." + patch);
}

/// The fuller of two that say the same as far as they go: 2.26.5 of 2.26.
std::string fuller(const std::string& one, const std::string& other) {
  return one.empty() || other.starts_with(one + ".") ? other : one;
}

/// What the macros of one prefix say.
std::string version_by(const Macros& macros, const std::string& prefix) {
  return fuller(whole_version(macros, prefix), parted_version(macros, prefix));
}

/// Where the library's own name begins no macro: the one version that is spelled at all.
HeaderVersion only_version(const Macros& macros) {
  std::map<std::string, std::string> prefixes;  ///< by version
  for (const auto& [name, value] : macros) {
    for (const auto& endings : {std::span<const std::string_view>(wholes), std::span<const std::string_view>(majors)}) {
      for (const auto ending : endings) {
        if (!name.ends_with(ending) || name.size() == ending.size()) continue;
        const std::string prefix = name.substr(0, name.size() - ending.size());
        if (const auto version = version_by(macros, prefix); !version.empty()) prefixes.emplace(version, prefix);
      }
    }
  }
  if (prefixes.size() != 1) return {};
  return {.version = prefixes.begin()->first, .prefix = prefixes.begin()->second};
}

}  // namespace

HeaderVersion version_in_headers(const Source& source, const std::string& name) {
  const Macros macros = macros_of(source);
  const std::string whole = macro_prefix(name);
  for (const auto& prefix : {whole, whole.starts_with("LIB") ? whole.substr(3) : whole}) {
    if (auto version = version_by(macros, prefix); !version.empty())
      return {.version = std::move(version), .prefix = prefix, .own = true};
  }
  return only_version(macros);
}

}  // namespace fibula
