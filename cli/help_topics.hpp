/// What `fibula help` and the manual say about more than one command.
#pragma once

#include <span>
#include <string_view>

namespace cli {

struct HelpTopic {
  std::string_view name, text;
};
std::span<const HelpTopic> help_topics();

}  // namespace cli
