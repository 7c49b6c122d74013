#include "card/placeholders.hpp"

#include "base/text.hpp"

namespace fibula {

std::string filled(std::string text, Placeholders values) {
  for (const auto& [mark, value] : values) {
    for (size_t at = text.find(mark); at != std::string::npos; at = text.find(mark, at + value.size()))
      text.replace(at, mark.size(), value);
  }
  return text;
}

std::string with_version(std::string text, const std::string& version) {
  const auto parts = text::split(version, '.');
  const auto part = [&](size_t at) {
    const std::string_view digits = at < parts.size() ? parts[at] : std::string_view();
    const size_t end = std::min(digits.size(), digits.find_first_not_of("0123456789"));
    return end == 0 ? std::string("0") : std::string(digits.substr(0, end));
  };
  return filled(std::move(text),
                {{"@version@", version}, {"@major@", part(0)}, {"@minor@", part(1)}, {"@patch@", part(2)}});
}

}  // namespace fibula
