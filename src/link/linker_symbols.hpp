#pragma once

#include <fibula/target.hpp>

#include <string_view>

namespace fibula {

/// Names that a lane's linker defines by itself when they are wanted, spelled as in objects of that machine. ELF: the
/// default linker scripts (`ld --verbose`), gABI "Special Sections", the processor supplements. Windows: the scripts
/// and the emulation's table of header fields. macOS: ld's manual page.
bool is_linker_defined(std::string_view name, const Target& target);

/// `__start_NAME` and `__stop_NAME`: the section they stand for (GNU ld manual, "Input Section Example"); empty for
/// other names.
std::string_view bounded_section(std::string_view name);

}  // namespace fibula
