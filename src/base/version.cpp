#include "base/version.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <cctype>

namespace fibula {
namespace {

bool is_letter(char c) {
  return std::isalpha(static_cast<unsigned char>(c)) != 0;
}

/// Takes the next run of digits or of letters off `text`; separators are skipped. Behind a plus comes what was added to
/// a version, which makes it a later one: a part of its own.
std::string_view next_part(std::string_view& text) {
  if (text.starts_with('+')) {
    const auto plus = text.substr(0, 1);
    text.remove_prefix(1);
    return plus;
  }
  while (!text.empty() && text[0] != '+' && !text::is_digit(text[0]) && !is_letter(text[0])) text.remove_prefix(1);
  if (text.starts_with('+')) return next_part(text);
  size_t length = 0;
  while (length < text.size() && (text::is_digit(text[0]) ? text::is_digit(text[length]) : is_letter(text[length])))
    ++length;
  const auto part = text.substr(0, length);
  text.remove_prefix(length);
  return part;
}

std::strong_ordering compare_numbers(std::string_view a, std::string_view b) {
  while (a.starts_with('0')) a.remove_prefix(1);
  while (b.starts_with('0')) b.remove_prefix(1);
  if (a.size() != b.size()) return a.size() <=> b.size();
  return a.compare(b) <=> 0;
}

/// A word sorts before nothing at all (2.1rc1 < 2.1), which sorts before a number (2.1 < 2.1.1) and before what was
/// added (2.1 < 2.1+own).
int rank(std::string_view part) {
  if (part.empty()) return 1;
  if (part == "+") return 3;
  return text::is_digit(part[0]) ? 2 : 0;
}

std::strong_ordering compare_parts(std::string_view a, std::string_view b) {
  const bool zero_a = a.empty() && !b.empty() && text::is_digit(b[0]);
  const bool zero_b = b.empty() && !a.empty() && text::is_digit(a[0]);
  if (zero_a || zero_b) return compare_numbers(a, b);
  if (rank(a) != rank(b)) return rank(a) <=> rank(b);
  if (!a.empty() && text::is_digit(a[0])) return compare_numbers(a, b);
  return a.compare(b) <=> 0;
}

}  // namespace

std::strong_ordering compare_versions(std::string_view a, std::string_view b) {
  while (!a.empty() || !b.empty()) {
    const auto order = compare_parts(next_part(a), next_part(b));
    if (order != std::strong_ordering::equal) return order;
  }
  return std::strong_ordering::equal;
}

Result<VersionRange> VersionRange::parse(std::string_view text) {
  static constexpr std::pair<std::string_view, Relation> signs[] = {{">=", Relation::at_least},
                                                                    {"<=", Relation::at_most},
                                                                    {">", Relation::more},
                                                                    {"<", Relation::less},
                                                                    {"=", Relation::equal}};
  VersionRange range;
  range.text_ = text;
  for (std::string_view word : text::words(text)) {
    Relation relation = Relation::within;
    for (const auto& [sign, meaning] : signs) {
      if (!word.starts_with(sign)) continue;
      relation = meaning;
      word.remove_prefix(sign.size());
      break;
    }
    if (word.empty() || !std::isalnum(static_cast<unsigned char>(word[0]))) {
      return fail({.code = Code::malformed,
                   .what = fmt::format("version range \"{}\" cannot be understood", text),
                   .hint = "write it like \">=2.1 <3\", \"2.1\" or \"=2.1.3\", without a space after the sign"});
    }
    range.bounds_.push_back({relation, std::string(word)});
  }
  return range;
}

bool VersionRange::holds(const Bound& bound, std::string_view version) {
  const auto order = compare_versions(version, bound.version);
  switch (bound.relation) {
    case Relation::equal: return order == 0;
    case Relation::less: return order < 0;
    case Relation::at_most: return order <= 0;
    case Relation::more: return order > 0;
    case Relation::at_least: return order >= 0;
    case Relation::within: break;
  }
  const auto length = bound.version.size();
  const bool below = version.starts_with(bound.version) && version.size() > length && !text::is_digit(version[length]);
  return order == 0 || below;
}

bool VersionRange::contains(std::string_view version) const {
  return std::all_of(bounds_.begin(), bounds_.end(), [&](const Bound& bound) { return holds(bound, version); });
}

}  // namespace fibula
