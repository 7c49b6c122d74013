#include "base/text.hpp"

#include <algorithm>
#include <cctype>
#include <numeric>

namespace fibula::text {
namespace {

bool is_space(char c) {
  return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' || c == '\v';
}

size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<size_t> row(b.size() + 1);
  std::iota(row.begin(), row.end(), size_t{0});
  for (size_t i = 1; i <= a.size(); ++i) {
    size_t diagonal = row[0]++;
    for (size_t j = 1; j <= b.size(); ++j) {
      const size_t above = row[j];
      const size_t change = diagonal + (a[i - 1] == b[j - 1] ? 0 : 1);
      row[j] = std::min({change, above + 1, row[j - 1] + 1});
      diagonal = above;
    }
  }
  return row.back();
}

}  // namespace

std::vector<std::string_view> split(std::string_view text, char separator) {
  std::vector<std::string_view> parts;
  while (true) {
    const size_t end = text.find(separator);
    parts.push_back(text.substr(0, end));
    if (end == std::string_view::npos) return parts;
    text.remove_prefix(end + 1);
  }
}

std::vector<std::string_view> words(std::string_view text) {
  std::vector<std::string_view> found;
  size_t at = 0;
  while (at < text.size()) {
    while (at < text.size() && is_space(text[at])) ++at;
    size_t end = at;
    while (end < text.size() && !is_space(text[end])) ++end;
    if (end > at) found.push_back(text.substr(at, end - at));
    at = end;
  }
  return found;
}

std::vector<std::string_view> lines(std::string_view text) {
  if (text.ends_with('\n')) text.remove_suffix(1);
  auto found = split(text, '\n');
  for (auto& line : found) {
    if (line.ends_with('\r')) line.remove_suffix(1);
  }
  return found;
}

std::string_view trim(std::string_view text) {
  while (!text.empty() && is_space(text.front())) text.remove_prefix(1);
  while (!text.empty() && is_space(text.back())) text.remove_suffix(1);
  return text;
}

std::string join(std::span<const std::string> parts, std::string_view separator) {
  std::string joined;
  for (size_t i = 0; i < parts.size(); ++i) {
    if (i > 0) joined += separator;
    joined += parts[i];
  }
  return joined;
}

std::string lower(std::string_view text) {
  std::string result(text);
  std::transform(result.begin(), result.end(), result.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return result;
}

std::string upper(std::string_view text) {
  std::string result(text);
  std::transform(result.begin(), result.end(), result.begin(),
                 [](unsigned char c) { return static_cast<char>(std::toupper(c)); });
  return result;
}

std::string count(size_t number, std::string_view singular, std::string_view plural) {
  const std::string many = plural.empty() ? std::string(singular) + "s" : std::string(plural);
  return std::to_string(number) + " " + (number == 1 ? std::string(singular) : many);
}

bool is_identifier_character(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_';
}

std::string closest(std::string_view word, std::span<const std::string> candidates) {
  std::string best;
  size_t least = std::max<size_t>(1, word.size() / 3) + 1;
  for (const auto& candidate : candidates) {
    const size_t distance = edit_distance(lower(word), lower(candidate));
    if (distance < least) {
      least = distance;
      best = candidate;
    }
  }
  return best;
}

bool glob_matches(std::string_view pattern, std::string_view path) {
  if (pattern.empty()) return path.empty();
  if (pattern.starts_with("**")) {
    const bool whole_part = pattern.size() > 2 && pattern[2] == '/';
    const std::string_view rest = pattern.substr(whole_part ? 3 : 2);
    for (size_t at = 0; at <= path.size(); ++at) {
      const bool boundary = !whole_part || at == 0 || path[at - 1] == '/';
      if (boundary && glob_matches(rest, path.substr(at))) return true;
    }
    return false;
  }
  if (pattern.front() == '*') {
    for (size_t at = 0; at <= path.size(); ++at) {
      if (glob_matches(pattern.substr(1), path.substr(at))) return true;
      if (at < path.size() && path[at] == '/') return false;
    }
    return false;
  }
  if (path.empty()) return false;
  const bool same = pattern.front() == path.front() || (pattern.front() == '?' && path.front() != '/');
  return same && glob_matches(pattern.substr(1), path.substr(1));
}

}  // namespace fibula::text
