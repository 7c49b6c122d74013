/// New files that hide old ones: a header is looked for in folder after folder, and the first one that has it wins.
#pragma once

#include "os/stamp.hpp"

#include <string>
#include <vector>

namespace fibula {

/// The state of a folder for a record: what comes into it from now on counts as new.
Stamp state_of_folder(const std::string& folder);

/// Names in a folder that came, or changed, after a state of it was taken; all of them where the clock was set back.
std::vector<std::string> names_since(const std::string& folder, const Stamp& state);

/// The file that hides `file` from a compiler that looks for it by some end of its path, now that `name` is in
/// `folder`:
/// `/p/first`, `tide` and `/p/second/tide/harbour.h` give `/p/first/tide/harbour.h` where that is there. Empty when
/// there is none.
std::string hidden_by(const std::string& folder, const std::string& name, const std::string& file);

}  // namespace fibula
