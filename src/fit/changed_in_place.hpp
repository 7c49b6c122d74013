/// Libraries whose files stay where they are, and are no longer as they were taken.
#pragma once

#include "choose/library_set.hpp"

#include <fibula/cache.hpp>

#include <optional>

namespace fibula {

/// A caution when a file that the chosen variant links or loads has another digest than when the library was taken.
/// Digests are kept for as long as a file has the same stamp.
std::optional<Misfit> changed_in_place(const Choice& choice, const Cache& cache);

}  // namespace fibula
