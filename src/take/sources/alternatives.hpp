/// Sources of which a library needs one: they define the same names.
#pragma once

#include <fibula/source_code.hpp>

#include <map>
#include <set>

namespace fibula {

/// The choices among files, given with what each defines in every build. Files of one choice share a name pair by pair;
/// where they do not, nobody knows which belong together, and there is no choice.
std::vector<SourceChoice> alternatives_among(const std::map<std::string, std::set<std::string>>& files);

}  // namespace fibula
