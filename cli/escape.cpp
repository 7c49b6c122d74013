#include "escape.hpp"

#include <fmt/format.h>

namespace cli {
namespace {

/// The character that begins a text, and how many bytes it has; zero bytes: they are no UTF-8 (RFC 3629, section 4).
std::pair<char32_t, size_t> first_character(std::string_view text) {
  const auto byte = [&](size_t i) { return static_cast<unsigned char>(text[i]); };
  const unsigned char lead = byte(0);
  const size_t length = lead < 0x80 ? 1 : lead < 0xc2 ? 0 : lead < 0xe0 ? 2 : lead < 0xf0 ? 3 : lead < 0xf5 ? 4 : 0;
  if (length == 0 || length > text.size()) return {0, 0};
  char32_t character = length == 1 ? lead : lead & (0x7fU >> length);
  for (size_t i = 1; i < length; ++i) {
    if ((byte(i) & 0xc0U) != 0x80) return {0, 0};
    character = character << 6U | (byte(i) & 0x3fU);
  }
  constexpr char32_t least[] = {0, 0, 0x80, 0x800, 0x10000};
  const bool surrogate = character >= 0xd800 && character < 0xe000;
  if (character < least[length] || character > 0x10ffff || surrogate) return {0, 0};
  return {character, length};
}

/// Controls of both sets, and the marks that change the direction of what follows (Unicode, "Bidirectional Algorithm").
bool is_obeyed(char32_t character, Lines lines) {
  if (character == '\t' || (character == '\n' && lines == Lines::many)) return false;
  return character < 0x20 || (character >= 0x7f && character < 0xa0) || (character >= 0x200e && character <= 0x200f) ||
         (character >= 0x2028 && character <= 0x202e) || (character >= 0x2066 && character <= 0x2069);
}

}  // namespace

std::string escaped(std::string_view text, Lines lines) {
  std::string safe;
  safe.reserve(text.size());
  while (!text.empty()) {
    const auto [character, length] = first_character(text);
    if (length == 0) {
      safe += fmt::format("\\x{:02x}", static_cast<unsigned char>(text[0]));
    } else if (is_obeyed(character, lines)) {
      safe += character < 0x100 ? fmt::format("\\x{:02x}", static_cast<unsigned>(character))
                                : fmt::format("\\u{:04x}", static_cast<unsigned>(character));
    } else {
      safe += text.substr(0, length);
    }
    text.remove_prefix(std::max<size_t>(length, 1));
  }
  return safe;
}

}  // namespace cli
