/// What the lane's compiler makes of the headers of chosen libraries, and what the header rules say of that.
#pragma once

#include "choose/selection.hpp"
#include "headers/header_reading.hpp"

#include <map>
#include <set>

namespace fibula {

/// The headers of what was chosen, as a reader is asked for them. `included` are the headers that C++ files of the
/// project include outside of extern "C".
LibraryHeaders headers_of(const Choice& choice, const std::set<std::string, std::less<>>& included);

}  // namespace fibula
