#include "toolchain/macros.hpp"

#include "base/text.hpp"

#include <cstdlib>
#include <string>

namespace fibula {

Macros::Macros(std::string_view out) {
  for (std::string_view line : text::lines(out)) {
    constexpr std::string_view define = "#define ";
    if (!line.starts_with(define)) continue;
    line.remove_prefix(define.size());
    const size_t space = line.find(' ');
    values_[line.substr(0, space)] =
        space == std::string_view::npos ? std::string_view() : text::trim(line.substr(space + 1));
  }
}

std::string_view Macros::value(std::string_view name) const {
  const auto found = values_.find(name);
  return found == values_.end() ? std::string_view() : found->second;
}

long Macros::number(std::string_view name) const {
  return std::strtol(std::string(value(name)).c_str(), nullptr, 0);
}

}  // namespace fibula
