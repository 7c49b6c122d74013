/// The build steps that a source tree brings, as its documents would give them.
#pragma once

#include "take/source.hpp"

#include <functional>
#include <set>

namespace fibula {

/// The last part of a header's name in small letters, as the templates' names are read.
std::string last_part(const std::string& header);

/// What the sources of a library ask for, by the last part of a header's name in small letters.
struct AskedHeaders {
  std::set<std::string> ever;        ///< in some build
  std::set<std::string> by_default;  ///< in each ordinary build; without those of them that came
};

/// Steps for the shell, with the variables of docs/files.md; none where its sources do without. `sources`: what would
/// be compiled of it. `lacks_values`: whether what is known without a configure step does not do.
std::vector<std::string> proposed_steps(const Source& source, AskedHeaders asked, const std::set<std::string>& sources,
                                        const std::function<bool()>& lacks_values);

/// What such steps make does not come from elsewhere.
void forget_made(Source& source);

}  // namespace fibula
