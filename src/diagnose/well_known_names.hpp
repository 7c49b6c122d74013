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

/// Whether a name is that of the function where programs begin, as sources or objects have it.
bool is_beginning(std::string_view name);

/// Nothing when the name tells nothing, or the command has what it asks for already.
std::optional<WellKnown> well_known_name(std::string_view symbol, const ToolCommand& command);

/// The same of a name in a log whose command is not known, mangled or as its tool reads it: what brings it on most
/// systems. `by_microsoft`: told by a tool of theirs.
std::optional<WellKnown> well_known_name(const std::string& name, bool by_microsoft);

}  // namespace fibula
