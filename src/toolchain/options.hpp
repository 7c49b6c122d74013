/// How each family of compilers spells what every compile is told.
#pragma once

#include <fibula/toolchain.hpp>

#include <string>
#include <vector>

namespace fibula {

struct OptionSpelling {
  std::vector<std::string> debug, release;
  std::string standard, definition, include;
  std::string foreign_include;  ///< of a library: warnings inside its headers are not shown
  bool joined = false;          ///< the directory follows a foreign include in the same word
};

const OptionSpelling& options_of(CompilerFamily family);

/// The flags without what stands behind `/link`: that is for the linker, and must come last.
std::vector<std::string> compile_flags(const std::vector<std::string>& flags);
/// `/link` and what stands behind it; nothing where it is not there.
std::vector<std::string> link_flags(const std::vector<std::string>& flags);

}  // namespace fibula
