/// What of a source tree is not compiled into the library, and why: told when it is taken.
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

struct LeftOut {
  std::vector<std::string> programs, beside_programs, included, collections, unreached, foreign, outdone, tried, side,
      unlisted, fragments, bindings;
  std::map<std::string, std::vector<std::string>> incomplete;  ///< by what they include
};

/// "a.c, b.c, c.c and 4 more are samples": the first of the files, with what is said of one or of several.
std::string told_of(const std::vector<std::string>& files, std::string_view of_one, std::string_view of_several);

/// A sentence for each reason that there is.
std::vector<std::string> remarks_of(const LeftOut& left_out);

}  // namespace fibula
