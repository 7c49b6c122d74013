/// The table of a fit: libraries down, lanes across, as wide as the screen.
#pragma once

#include <fibula/fit.hpp>

namespace cli {

/// More lanes than the screen has room for go into further tables below.
void print_fit_table(const fibula::Project& project, const std::vector<fibula::Fit>& fits);

}  // namespace cli
