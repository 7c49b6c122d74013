/// The causes that findings can have: a closed list, one row a cause.
#pragma once

#include <string_view>

namespace fibula {

/// The stage that a cause belongs to: compile, assemble, link, load, run; empty for what is no cause.
std::string_view stage_of(std::string_view cause);

}  // namespace fibula
