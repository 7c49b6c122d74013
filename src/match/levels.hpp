/// Processor levels: which code runs where.
#pragma once

#include <fibula/target.hpp>

#include <string_view>

namespace fibula {

enum class Reach {
  runs,        ///< the processor has all that the code needs
  near_only,   ///< it runs, but its calls and jumps reach less than the program may need
  needs_more,  ///< instructions that the processor may not have
  other_kind,  ///< another profile or another size of addresses: they cannot be one program
  not_known,
};

/// How code made for one level fares where another is guaranteed. Levels have the names of facts: "x86-64-v3",
/// "v7E-M", "avr5".
Reach level_reach(Arch arch, std::string_view code, std::string_view guaranteed);

}  // namespace fibula
