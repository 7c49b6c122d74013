/// What the text of public headers tells: version and licence.
#include "base/text.hpp"
#include "os/files.hpp"
#include "take/source.hpp"

#include <algorithm>
#include <cctype>
#include <map>

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

/// `#define NAME value` of every header; names without underscores, values without quotes.
Macros macros_of(const Source& source) {
  Macros macros;
  for (const auto& header : source.headers) {
    const auto content = read_text(source.root / header);
    if (!content || content->find("VERSION") == std::string::npos) continue;
    for (std::string_view line : text::lines(*content)) {
      line = text::trim(line);
      if (!line.starts_with('#') || line.find("VERSION") == std::string_view::npos) continue;
      const auto words = text::words(line.substr(1));
      if (words.size() < 3 || words[0] != "define") continue;
      std::string_view value = words[2];
      if (value.size() > 1 && value.front() == '"' && value.back() == '"') value = value.substr(1, value.size() - 2);
      macros.emplace(without_underscores(words[1]), value);
    }
  }
  return macros;
}

std::string whole_version(const Macros& macros, const std::string& prefix) {
  for (const char* ending : {"VERSION", "VERSIONSTRING", "VERSIONSTR", "VERSIONTEXT", "LIBVERSION"}) {
    const auto found = macros.find(prefix + ending);
    if (found != macros.end() && is_version_text(found->second)) return found->second;
  }
  return {};
}

std::string parted_version(const Macros& macros, const std::string& prefix) {
  std::string version;
  for (const auto& names : {std::vector<std::string>{"VERSIONMAJOR", "MAJORVERSION"},
                            {"VERSIONMINOR", "MINORVERSION"},
                            {"VERSIONPATCH", "PATCHVERSION", "VERSIONMICRO", "VERSIONREVISION", "VERSIONRELEASE"}}) {
    const auto found = std::find_if(names.begin(), names.end(),
                                    [&](const std::string& name) { return macros.contains(prefix + name); });
    if (found == names.end()) break;
    const auto& value = macros.at(prefix + *found);
    if (value.empty() || value.find_first_not_of("0123456789") != std::string::npos) break;
    version += (version.empty() ? "" : ".") + value;
  }
  return version.find('.') == std::string::npos ? std::string() : version;
}

}  // namespace

std::string version_in_headers(const Source& source, const std::string& name) {
  const Macros macros = macros_of(source);
  const std::string prefix = macro_prefix(name);
  const std::string whole = whole_version(macros, prefix);
  return whole.empty() ? parted_version(macros, prefix) : whole;
}

std::string licence_in_headers(const Source& source) {
  constexpr std::string_view tag = "SPDX-License-Identifier:";
  for (const auto& header : source.headers) {
    const auto content = read_text(source.root / header);
    if (!content) continue;
    const size_t at = content->find(tag);
    if (at == std::string::npos) continue;
    std::string_view rest = std::string_view(*content).substr(at + tag.size());
    rest = text::trim(rest.substr(0, rest.find('\n')));
    if (rest.ends_with("*/")) rest.remove_suffix(2);
    return std::string(text::trim(rest));
  }
  return {};
}

}  // namespace fibula
