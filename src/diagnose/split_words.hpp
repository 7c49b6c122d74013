/// Paths that a shell, make or response file took apart, since nobody quoted them.
#pragma once

#include "commands/command_change.hpp"

#include <fibula/explain.hpp>

namespace fibula {

/// Two words of a command that are one path, which is there while the second word alone is nothing.
std::optional<Finding> path_in_two_words(const ToolCommand& command, std::string_view stage);

}  // namespace fibula
