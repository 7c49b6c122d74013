#pragma once

#include <nlohmann/json.hpp>

#include <string>

namespace fibula {

/// JSON as text (RFC 8259), the one way in which it is printed: bytes of names that are no UTF-8 become U+FFFD, where
/// the library's own printer would throw. `indent` below zero: on one line.
template <class Json>
std::string json_text(const Json& value, int indent) {
  return value.dump(indent, ' ', false, Json::error_handler_t::replace);
}

/// An array of what a function makes of each item.
template <class List, class Convert>
nlohmann::ordered_json listed(const List& list, Convert convert) {
  auto all = nlohmann::ordered_json::array();
  for (const auto& item : list) all.push_back(convert(item));
  return all;
}

}  // namespace fibula
