/// Fits as people read them.
#pragma once

#include <fibula/fit.hpp>

#include <vector>

namespace cli {

/// The same fits with the paths of a shelf's files written short, `shelf: tidecalc/2.1.0/lib/libtidecalc.a`; what is to
/// be typed, in remedies, stays in full.
std::vector<fibula::Fit> with_short_paths(std::vector<fibula::Fit> fits);

}  // namespace cli
