/// YAML, as far as data files need it: scalars, lists and maps of the first document. Aliases are refused, since a few
/// lines of them can stand for gigabytes.
#pragma once

#include "base/bytes.hpp"

#include <string>
#include <utility>
#include <vector>

namespace fibula::yaml {

struct Node {
  enum class Kind { scalar, list, map } kind = Kind::scalar;
  std::string text;               ///< of a scalar
  std::vector<Node> items;        ///< of a list; of a map, its values
  std::vector<std::string> keys;  ///< of a map
  uint64_t line = 0;              ///< counted from one

  /// A map's value, or nothing.
  const Node* find(std::string_view key) const;
  /// A map's scalar, or an empty text.
  std::string_view text_of(std::string_view key) const;
  /// The items of a map's list; none where there is no such list.
  const std::vector<Node>& list_of(std::string_view key) const;
};

/// Errors: malformed (with the line), limit (nested more than 64 deep).
Result<Node> parse(Bytes bytes);

}  // namespace fibula::yaml
