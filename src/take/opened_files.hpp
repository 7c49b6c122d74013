/// Libraries that code opens by itself while the program runs: no import names them, and no link takes them.
#pragma once

#include "take/drafts.hpp"

namespace fibula {

/// Finds them by their names in the other libraries of the same variant: files in folders for plugins, and shared
/// libraries that offer nothing of what the headers declare. They leave the link and join the variant's plugins.
void find_opened(Source& source, std::vector<Draft>& drafts);

}  // namespace fibula
