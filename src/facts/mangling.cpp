#include "facts/mangling.hpp"

#include <fibula/symbols.hpp>

#include "os/demangle.hpp"

namespace fibula {

bool is_itanium_mangled(std::string_view symbol) {
  return symbol.starts_with("_Z");
}

std::vector<std::string_view> identifiers_in(std::string_view symbol) {
  if (!is_itanium_mangled(symbol)) return {symbol};
  std::vector<std::string_view> found;
  // A source name is its length in decimal digits, then that many characters (<source-name>).
  for (size_t at = 2; at < symbol.size();) {
    size_t length = 0, digits = at;
    while (digits < symbol.size() && symbol[digits] >= '0' && symbol[digits] <= '9' && length < symbol.size()) {
      length = length * 10 + static_cast<size_t>(symbol[digits++] - '0');
    }
    if (digits == at || length == 0 || length > symbol.size() - digits) {
      ++at;
      continue;
    }
    found.push_back(symbol.substr(digits, length));
    at = digits + length;
  }
  return found;
}

std::string readable_name(std::string_view symbol) {
  if (symbol.starts_with("__imp_")) {
    const std::string target = readable_name(symbol.substr(6));
    return target == symbol.substr(6) ? std::string(symbol) : "__imp_ " + target;
  }
  // Mach-O and 32-bit COFF put an underscore before every name.
  if (symbol.starts_with("__Z")) symbol.remove_prefix(1);
  if (!is_itanium_mangled(symbol) || symbol.size() > 64U << 10U) return std::string(symbol);
  return demangle(std::string(symbol)).value_or(std::string(symbol));
}

std::string without_parameters(const std::string& name) {
  int angle = 0;
  for (size_t i = 0; i < name.size(); ++i) {
    if (name[i] == '<') ++angle;
    if (name[i] == '>') --angle;
    const bool call = name.compare(i, 2, "()") == 0 && i >= 8 && name.compare(i - 8, 8, "operator") == 0;
    if (name[i] == '(' && angle == 0 && i > 0 && !call && name.compare(i, 11, "(anonymous ") != 0)
      return name.substr(0, i);
  }
  return name;
}

}  // namespace fibula
