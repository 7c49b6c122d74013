/// What became of headers that were each compiled alone.
#pragma once

#include <fibula/card.hpp>

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

enum class HeaderOutcome {
  wrong,
  refuses,      ///< an #error that it was written to give: it is for those who define or include something first
  other_system  ///< it includes a header that only another system has
};

/// What the first error in a compiler's output says of the header. `triple` is the compiler's.
HeaderOutcome header_outcome(std::string_view log, std::string_view triple);

/// Of a header that fails alone.
struct HeaderFailure {
  std::string header;  ///< as it is included
  std::string said;    ///< the first error
  std::string missed;  ///< a name that nothing declares; empty: it is wrong for another reason
};

/// The name that nothing declares, when that is the first error in a compiler's output.
std::string name_missed_in(std::string_view log);

/// One header behind another one.
struct HeaderOrder {
  std::string first, then;  ///< as they are included
};

/// For each failure the headers of the library that could declare what is missed. One that lacks a header of the
/// system's is wrong: no order of the library's mends it.
std::vector<HeaderOrder> orders_to_try(const std::vector<HeaderFailure>& failed,
                                       const std::vector<std::string>& headers, const Card& card,
                                       const Variant* variant);

/// How many headers there are of each kind.
struct HeaderTally {
  size_t good = 0;
  size_t parts = 0;  ///< fail alone, and others include them
  size_t refusing = 0;
  size_t other_system = 0;
  std::vector<HeaderOrder> ordered = {};  ///< these compile behind another one
};

/// "3 headers, each alone, and 1 that is for another system".
std::string sentence(const HeaderTally& tally);

}  // namespace fibula
