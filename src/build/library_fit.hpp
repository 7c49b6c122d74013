/// A library that comes as source, as something that a lane makes: how its own sources are compiled and linked.
#pragma once

#include "choose/source_plan.hpp"

#include <fibula/fit.hpp>

namespace fibula {

struct LibraryFit {
  Fit fit;
  Output output;
};

/// A folder among the made headers from which `"../config.h"` finds them, as sources in a folder of a tree ask for what
/// its configure step would have put at the top.
inline constexpr const char* seen_from_below = "below";

/// `made_headers`: where those lie that a configure step would have made. `required`: what it requires, chosen and
/// there.
LibraryFit library_fit(const SourcePlan& plan, const Lane& lane, const Toolchain& toolchain,
                       const std::filesystem::path& made_headers, const std::vector<const Choice*>& required);

}  // namespace fibula
