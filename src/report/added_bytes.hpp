#pragma once

#include <fibula/report.hpp>

namespace fibula {

/// Of one linked output, by its symbol table and those of what it was linked with, largest first. Empty where it is not
/// built, or has no symbol table.
std::vector<AddedBytes> added_bytes(const Project& project, const Fit& fit, const Output& output);

}  // namespace fibula
