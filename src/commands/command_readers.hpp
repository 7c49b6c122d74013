/// How each family of tools spells its commands.
#pragma once

#include "commands/tool_command.hpp"

namespace fibula {

/// GCC's and Clang's drivers (GCC's manual, "Option Summary"), and GNU-style linkers (ld's manual, "Options").
void read_gnu_words(ToolCommand& command);
/// cl, clang-cl, link and lld-link (Microsoft C++ documentation, "Compiler options", "Linker options").
void read_msvc_words(ToolCommand& command);

/// One line of a GNU-style response file.
std::vector<std::string> response_words(std::string_view line);

}  // namespace fibula
