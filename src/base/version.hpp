#pragma once

#include <fibula/result.hpp>

#include <compare>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// Orders two version texts part by part: digits by number, letters by alphabet; a part that is missing counts as zero,
/// and a word after a number (`2.1rc1`) stands before the bare number.
std::strong_ordering compare_versions(std::string_view a, std::string_view b);

/// What a project asks for: `2.1` (that version and everything below it, 2.1.x), `=2.1.3`, `>=2.1 <3`; empty takes any.
class VersionRange {
 public:
  /// Errors: malformed, with the part that cannot be understood.
  static Result<VersionRange> parse(std::string_view text);
  bool contains(std::string_view version) const;
  const std::string& text() const { return text_; }

 private:
  enum class Relation { within, equal, less, at_most, more, at_least };
  struct Bound {
    Relation relation;
    std::string version;
  };
  static bool holds(const Bound& bound, std::string_view version);

  std::string text_;
  std::vector<Bound> bounds_;
};

}  // namespace fibula
