/// Which definitions make the headers of a library that is compiled here right for Windows.
#pragma once

#include <fibula/card.hpp>
#include <fibula/toolchain.hpp>

namespace fibula {

struct ImportSides {
  std::vector<std::string> own;    ///< for the library's own sources alone
  std::vector<std::string> users;  ///< for both
};

/// What the conditionals around `dllimport` in the public headers ask for, where the lane makes files for Windows;
/// nothing elsewhere.
ImportSides import_sides(const Card& card, const Toolchain& toolchain, Linkage linkage);

}  // namespace fibula
