/// Texts as the bytes that readers take.
#pragma once

#include "base/bytes.hpp"

#include <deque>
#include <string>

namespace test {

/// Borrowed: the text outlives them.
inline fibula::Bytes bytes_of(std::string_view text) {
  return fibula::Bytes(std::as_bytes(std::span(text.data(), text.size())));
}

/// Kept to the end: what is read borrows its names from the bytes.
inline fibula::Bytes kept_bytes(std::string content) {
  static std::deque<std::string> kept;
  return bytes_of(kept.emplace_back(std::move(content)));
}

}  // namespace test
