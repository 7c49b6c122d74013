#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fibula::text {

std::vector<std::string_view> split(std::string_view text, char separator);
/// Words between runs of white space.
std::vector<std::string_view> words(std::string_view text);
std::vector<std::string_view> lines(std::string_view text);
std::string_view trim(std::string_view text);
std::string join(std::span<const std::string> parts, std::string_view separator);
/// `0` to `9`, whatever the locale says.
constexpr bool is_digit(char c) {
  return c >= '0' && c <= '9';
}
std::string lower(std::string_view text);
std::string upper(std::string_view text);
/// `1 file`, `2 files`; the plural is the singular with an s unless given.
std::string count(size_t number, std::string_view singular, std::string_view plural = {});

bool is_identifier_character(char c);
/// Every name in a text, in order: runs of such characters that do not begin with a digit.
std::vector<std::string_view> identifiers(std::string_view text);
/// Of ASCII.
bool is_letter(char c);
/// Well-formed (RFC 3629, section 4).
bool is_utf8(std::string_view text);

/// The candidate that `word` was probably meant to be, or an empty string when none is near.
std::string closest(std::string_view word, std::span<const std::string> candidates);

/// Whether an identifier stands in a text as a whole.
bool has_word(std::string_view text, std::string_view word);

/// `*` stands for any text, `?` for any character.
bool matches(std::string_view pattern, std::string_view text);
/// Shell-like match of a path with `/` separators: `*` and `?` within one part, `**` across parts.
bool glob_matches(std::string_view pattern, std::string_view path);

}  // namespace fibula::text
