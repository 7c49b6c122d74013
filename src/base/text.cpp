#include "base/text.hpp"

#include <fibula/words.hpp>

#include <algorithm>
#include <cctype>
#include <numeric>
#include <utility>

namespace fibula::text {
namespace {

bool is_space(char c) {
  return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' || c == '\v';
}

/// How many letters are to be put in, taken away, changed, or changed over with the next one.
size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<size_t> earlier, before, row(b.size() + 1);
  std::iota(row.begin(), row.end(), size_t{0});
  for (size_t i = 1; i <= a.size(); ++i) {
    earlier = std::exchange(before, row);
    row[0] = i;
    for (size_t j = 1; j <= b.size(); ++j) {
      row[j] = std::min({before[j - 1] + (a[i - 1] == b[j - 1] ? 0 : 1), before[j] + 1, row[j - 1] + 1});
      const bool turned = i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1];
      if (turned) row[j] = std::min(row[j], earlier[j - 2] + 1);
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

std::vector<std::string_view> identifiers(std::string_view text) {
  std::vector<std::string_view> found;
  for (size_t at = 0; at < text.size();) {
    size_t end = at;
    while (end < text.size() && is_identifier_character(text[end])) ++end;
    if (end > at && (text[at] < '0' || text[at] > '9')) found.push_back(text.substr(at, end - at));
    at = end + 1;
  }
  return found;
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

bool is_letter(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
}

namespace {

/// Of a sequence that begins with this byte; 0 where none may.
size_t length_of_utf8(unsigned char first) {
  if (first < 0x80) return 1;
  if (first >= 0xc2 && first <= 0xdf) return 2;
  if ((first & 0xf0U) == 0xe0) return 3;
  return first >= 0xf0 && first <= 0xf4 ? 4 : 0;
}

/// The second byte rules out forms that are longer than needed, surrogates, and what is beyond U+10FFFF.
bool is_second_of_utf8(unsigned char first, unsigned char second) {
  switch (first) {
    case 0xe0: return second >= 0xa0 && second <= 0xbf;
    case 0xed: return second >= 0x80 && second <= 0x9f;
    case 0xf0: return second >= 0x90 && second <= 0xbf;
    case 0xf4: return second >= 0x80 && second <= 0x8f;
    default: return (second & 0xc0U) == 0x80;
  }
}

}  // namespace

bool is_utf8(std::string_view text) {
  const auto byte = [&](size_t at) { return static_cast<unsigned char>(text[at]); };
  for (size_t at = 0; at < text.size();) {
    const size_t length = length_of_utf8(byte(at));
    if (length == 0 || length > text.size() - at) return false;
    if (length > 1 && !is_second_of_utf8(byte(at), byte(at + 1))) return false;
    for (size_t rest = 2; rest < length; ++rest) {
      if ((byte(at + rest) & 0xc0U) != 0x80) return false;
    }
    at += length;
  }
  return true;
}

namespace {

/// One element of a pattern.
struct GlobStep {
  enum class Kind { character, one, within, across, folders } kind;
  char character = 0;
};

std::vector<GlobStep> glob_steps(std::string_view pattern) {
  using Kind = GlobStep::Kind;
  std::vector<GlobStep> steps;
  while (!pattern.empty()) {
    size_t used = 1;
    if (pattern.starts_with("**/")) {
      steps.push_back({Kind::folders});
      used = 3;
    } else if (pattern.starts_with("**")) {
      steps.push_back({Kind::across});
      used = 2;
    } else if (pattern.front() == '*') {
      steps.push_back({Kind::within});
    } else if (pattern.front() == '?') {
      steps.push_back({Kind::one});
    } else {
      steps.push_back({Kind::character, pattern.front()});
    }
    pattern.remove_prefix(used);
  }
  return steps;
}

}  // namespace

bool has_word(std::string_view text, std::string_view word) {
  for (size_t at = 0; (at = text.find(word, at)) != std::string_view::npos; at += word.size()) {
    const bool begins = at == 0 || !is_identifier_character(text[at - 1]);
    const bool ends = at + word.size() == text.size() || !is_identifier_character(text[at + word.size()]);
    if (begins && ends) return true;
  }
  return false;
}

bool matches(std::string_view pattern, std::string_view text) {
  // Only the last star is ever gone back to: the time is the product of the lengths at most.
  size_t at = 0, next = 0, star = std::string_view::npos, from = 0;
  while (at < text.size()) {
    if (next < pattern.size() && (pattern[next] == '?' || pattern[next] == text[at]) && pattern[next] != '*') {
      ++at;
      ++next;
    } else if (next < pattern.size() && pattern[next] == '*') {
      star = next++;
      from = at;
    } else if (star != std::string_view::npos) {
      next = star + 1;
      at = ++from;
    } else {
      return false;
    }
  }
  while (next < pattern.size() && pattern[next] == '*') ++next;
  return next == pattern.size();
}

// All ways to match go forward side by side, a character at a time: the time is the product of the lengths at most,
// however many stars there are. `reached[i]`: what was read so far can be what the first i steps stand for.
bool glob_matches(std::string_view pattern, std::string_view path) {
  using Kind = GlobStep::Kind;
  const auto steps = glob_steps(pattern);
  std::vector<char> reached(steps.size() + 1, 0), next;
  reached[0] = 1;
  const auto skip = [&](std::vector<char>& states, bool at_boundary) {
    for (size_t i = 0; i < steps.size(); ++i) {
      const Kind kind = steps[i].kind;
      const bool may_be_empty = kind == Kind::within || kind == Kind::across || (kind == Kind::folders && at_boundary);
      if (states[i] && may_be_empty) states[i + 1] = 1;
    }
  };
  skip(reached, true);
  for (const char c : path) {
    next.assign(steps.size() + 1, 0);
    for (size_t i = 0; i < steps.size(); ++i) {
      if (!reached[i]) continue;
      switch (steps[i].kind) {
        case Kind::character: next[i + 1] = next[i + 1] || steps[i].character == c; break;
        case Kind::one: next[i + 1] = next[i + 1] || c != '/'; break;
        case Kind::within: next[i] = next[i] || c != '/'; break;
        case Kind::across:
        case Kind::folders: next[i] = 1; break;
      }
    }
    skip(next, c == '/');
    reached.swap(next);
  }
  return reached[steps.size()] != 0;
}

}  // namespace fibula::text

namespace fibula {

std::string closest_word(const std::string& word, const std::vector<std::string>& candidates) {
  return text::closest(word, candidates);
}

}  // namespace fibula
