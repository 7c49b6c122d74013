#include "headers/shared_definition.hpp"

#include "base/text.hpp"
#include "headers/declarations.hpp"
#include "headers/include_lines.hpp"
#include "os/files.hpp"

#include <algorithm>
#include <iterator>
#include <set>

namespace fibula {
namespace {

constexpr uint64_t largest_text = 4U << 20U;
constexpr size_t most_headers = 500;

/// What a source includes that is found, theirs too.
std::set<fs::path> included_by(const fs::path& source, const std::vector<fs::path>& folders) {
  std::set<fs::path> headers;
  std::vector<fs::path> open{source};
  while (!open.empty() && headers.size() < most_headers) {
    const fs::path file = std::move(open.back());
    open.pop_back();
    const auto text = read_text(file, largest_text);
    for (const auto& line : text ? include_lines(*text) : std::vector<IncludeLine>()) {
      std::vector<fs::path> places = folders;
      if (line.quoted) places.insert(places.begin(), file.parent_path());
      for (const auto& place : places) {
        const fs::path header = (place / line.name).lexically_normal();
        std::error_code ignored;
        if (!fs::is_regular_file(header, ignored)) continue;
        if (headers.insert(header).second) open.push_back(header);
        break;
      }
    }
  }
  return headers;
}

/// `int tide;` without `extern`: in C a definition, where nothing else is one (C11, 6.9.2).
bool has_tentative(std::string_view text, const std::string& name) {
  for (const auto each : text::lines(text)) {
    const std::string_view line = text::trim(each);
    const size_t at = line.find(name);
    if (at == std::string_view::npos || at == 0 || !text::has_word(line, name)) continue;
    const std::string_view behind = text::trim(line.substr(at + name.size()));
    const bool ends =
        behind.starts_with(';') || (behind.starts_with('[') && behind.find("];") != std::string_view::npos);
    const std::string_view before = line.substr(0, at);
    if (ends && before.find('(') == std::string_view::npos && !text::has_word(before, "extern") &&
        !text::has_word(before, "typedef") && !text::has_word(before, "static"))
      return true;
  }
  return false;
}

}  // namespace

std::optional<fs::path> header_that_defines(const std::string& name, const std::vector<fs::path>& sources,
                                            const std::vector<fs::path>& folders) {
  std::set<fs::path> common;
  for (size_t i = 0; i < sources.size(); ++i) {
    const auto headers = included_by(sources[i], folders);
    std::set<fs::path> both;
    std::set_intersection(headers.begin(), headers.end(), common.begin(), common.end(),
                          std::inserter(both, both.end()));
    common = i == 0 ? headers : std::move(both);
  }
  for (const auto& header : common) {
    const auto text = read_text(header, largest_text);
    if (!text || !text::has_word(*text, name)) continue;
    if (names_in_source(*text).defines.contains(name) || has_tentative(*text, name)) return header;
  }
  return std::nullopt;
}

}  // namespace fibula
