/// Which library a header belongs to that somebody includes, also where its name is written otherwise.
#pragma once

#include <fibula/card.hpp>

#include <optional>
#include <string>
#include <vector>

namespace fibula {

struct HeaderHit {
  std::string name;  ///< as it must be written behind #include
  std::filesystem::path path;
  bool as_written = false;  ///< the include is right, as far as this library goes
};

/// The header of a library that an include can mean: the one of that name; else one whose name ends like it, or like
/// which it ends (`tern.h` for `sub/tern.h`, and the other way round), in whatever case its letters are.
std::optional<HeaderHit> header_meant(const Card& card, const std::string& included);

}  // namespace fibula
