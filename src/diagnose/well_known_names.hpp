/// Names that compilers write into objects, and the option or driver that brings what defines them.
#pragma once

#include "commands/tool_command.hpp"

namespace fibula {

struct WellKnown {
  std::string_view cause;
  std::string why;
  std::string remedy;
  std::vector<std::string> flags = {};  ///< to be added to the command
  std::string driver = {};              ///< to be called in the command's place
};

/// Nothing when the name tells nothing, or the command has what it asks for already.
std::optional<WellKnown> well_known_name(std::string_view symbol, const ToolCommand& command);

}  // namespace fibula
