/// What became of headers that were each compiled alone.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>

namespace fibula {

enum class HeaderOutcome {
  wrong,
  refuses,      ///< an #error that it was written to give: it is for those who define or include something first
  other_system  ///< it includes a header that only another system has
};

/// What the first error in a compiler's output says of the header. `triple` is the compiler's.
HeaderOutcome header_outcome(std::string_view log, std::string_view triple);

/// How many headers there are of each kind.
struct HeaderTally {
  size_t good = 0;
  size_t parts = 0;  ///< fail alone, and others include them
  size_t refusing = 0;
  size_t other_system = 0;
};

/// "3 headers, each alone, and 1 that is for another system".
std::string sentence(const HeaderTally& tally);

}  // namespace fibula
