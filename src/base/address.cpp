#include "base/address.hpp"

namespace fibula {

std::string without_secrets(std::string_view text) {
  std::string shown;
  for (size_t scheme = text.find("://"); scheme != std::string_view::npos; scheme = text.find("://")) {
    const std::string_view rest = text.substr(scheme + 3);
    const std::string_view authority = rest.substr(0, rest.find_first_of("/?# \t\n'\""));
    const size_t at = authority.rfind('@');
    shown.append(text.substr(0, scheme + 3));
    text = at == std::string_view::npos ? rest : rest.substr(at + 1);
  }
  return shown.append(text);
}

Error without_secrets(Error error) {
  for (std::string* text : {&error.what, &error.file, &error.hint}) *text = without_secrets(*text);
  return error;
}

}  // namespace fibula
