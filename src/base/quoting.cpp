#include "base/quoting.hpp"

#include "base/text.hpp"

#include <algorithm>

namespace fibula {

std::string shell_word(std::string_view word) {
  const bool plain = !word.empty() && std::all_of(word.begin(), word.end(), [](char c) {
    return text::is_identifier_character(c) || std::string_view("-./=:,+@%").find(c) != std::string_view::npos;
  });
  if (plain) return std::string(word);
  std::string quoted = "'";
  for (const char c : word) {
    if (c == '\'') {
      quoted += "'\\''";
    } else {
      quoted += c;
    }
  }
  return quoted + "'";
}

std::string windows_word(std::string_view word) {
  if (!word.empty() && word.find_first_of(" \t\n\"") == std::string_view::npos) return std::string(word);
  std::string text = "\"";
  size_t slashes = 0;
  for (const char c : word) {
    // Those before a quote count twice, and one more is the quote's own.
    if (c == '"') text.append(slashes + 1, '\\');
    slashes = c == '\\' ? slashes + 1 : 0;
    text += c;
  }
  return text.append(slashes, '\\') + "\"";
}

std::string shell_words(const std::vector<std::string>& words) {
  std::string text;
  for (const auto& word : words) text += (text.empty() ? "" : " ") + shell_word(word);
  return text;
}

bool fits_on_a_line(std::string_view word) {
  return word.find_first_of(std::string_view("\n\r\0", 3)) == std::string_view::npos;
}

std::string make_value(std::string_view text) {
  std::string value;
  size_t backslashes = 0;  // right before this character: make halves those before a #
  for (const char c : text) {
    if (c == '#') value += std::string(backslashes + 1, '\\');
    if (c == '$') value += '$';
    value += c;
    backslashes = c == '\\' ? backslashes + 1 : 0;
  }
  return value;
}

}  // namespace fibula
