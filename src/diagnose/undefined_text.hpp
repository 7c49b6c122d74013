/// Undefined names of a log whose files are not here: who has them on the shelf and in the compiler's folders.
#pragma once

#include "commands/complaint.hpp"
#include "diagnose/evidence.hpp"

namespace fibula {

/// One finding for each library that has some of the names, and one for those that none has.
std::vector<Finding> undefined_by_text(const std::vector<Complaint>& complaints, Evidence& evidence);

}  // namespace fibula
