#pragma once

#include <string_view>

namespace fibula {

/// Names that GNU-style linkers define by themselves when they are wanted (the default linker scripts, `ld --verbose`;
/// gABI "Special Sections"; the processor supplements).
bool is_linker_defined(std::string_view name);

/// `__start_NAME` and `__stop_NAME`: the section they stand for (GNU ld manual, "Input Section Example"); empty for
/// other names.
std::string_view bounded_section(std::string_view name);

}  // namespace fibula
