#include "card/card_seal.hpp"

#include "base/digest.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

std::string seal(std::string_view text) {
  return fmt::format("# Written by fibula take, to be corrected where the files could not tell. As written: {:016x}\n",
                     quick_digest(text));
}

}  // namespace

std::string sealed_card(std::string_view text) {
  return seal(text) + std::string(text);
}

bool was_edited(std::string_view sealed) {
  const size_t end = sealed.find('\n');
  if (end == std::string_view::npos) return true;
  return sealed.substr(0, end + 1) != seal(sealed.substr(end + 1));
}

}  // namespace fibula
