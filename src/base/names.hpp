/// Closed enums and their names, kept in one table each so that printing and parsing cannot drift apart.
#pragma once

#include <optional>
#include <span>
#include <string_view>

namespace fibula {

template <class E>
struct Name {
  E value;
  std::string_view text;
};

/// The name of `value`, or "unknown" when the table has no row for it.
template <class E>
constexpr std::string_view name_in(std::span<const Name<E>> table, E value) {
  for (const auto& row : table) {
    if (row.value == value) return row.text;
  }
  return "unknown";
}

/// The value named `text`, if the table has it.
template <class E>
constexpr std::optional<E> value_in(std::span<const Name<E>> table, std::string_view text) {
  for (const auto& row : table) {
    if (row.text == text) return row.value;
  }
  return std::nullopt;
}

}  // namespace fibula
