/// Position independence: where code can be put by a linker.
#pragma once

#include <fibula/export.hpp>

#include <cstdint>
#include <string>
#include <string_view>

namespace fibula {

/// Where code can be put by a linker. From good to bad.
enum class Pic {
  yes,            ///< into shared libraries and programs
  programs_only,  ///< into programs that can be loaded anywhere, not into shared libraries (GCC's -fPIE)
  no,             ///< only into programs with a fixed address
};
FIBULA_API std::string_view to_string(Pic pic);

/// Whether code can be loaded at any address, and what says that it cannot.
struct PicReport {
  Pic level = Pic::yes;
  std::string relocation = {};  ///< the first offending relocation's name
  std::string section = {};
  uint64_t offset = 0;
  std::string symbol = {};

  bool operator==(const PicReport&) const = default;
};

}  // namespace fibula
