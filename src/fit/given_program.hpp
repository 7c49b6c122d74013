/// A program that somebody else's build compiles.
#pragma once

#include "fit/gathered.hpp"

namespace fibula {

/// Reads what is there of it: objects and archives take part in the link; other files are lists of names. Errors: see
/// `gather`.
Result<void> add_program(Gathered::State& state, const std::vector<std::filesystem::path>& files);

}  // namespace fibula
