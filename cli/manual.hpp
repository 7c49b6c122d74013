/// The commands' own words in other forms.
#pragma once

#include "command.hpp"

#include <string>

namespace cli {

/// A page for man(1), in the macros of man(7).
std::string manual_page(const CommandText& program, const std::string& version);

/// Completions for a shell: of commands, options and words, and of names that `fibula help --names` prints. `shell`:
/// bash, zsh or fish.
std::string completions(const CommandText& program, const std::string& shell);

}  // namespace cli
