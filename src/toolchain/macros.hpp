/// A compiler's predefined macros, as `-dM` prints them.
#pragma once

#include <map>
#include <string_view>

namespace fibula {

/// Borrows the text that it is made from.
class Macros {
 public:
  explicit Macros(std::string_view out);
  bool has(std::string_view name) const { return values_.contains(name); }
  /// Empty for a macro that is not there, or that has no value.
  std::string_view value(std::string_view name) const;
  /// A number in C's spelling, with its suffix: `201703L`, `0x0601`; 0 where it is none.
  long number(std::string_view name) const;

 private:
  std::map<std::string_view, std::string_view> values_;
};

}  // namespace fibula
