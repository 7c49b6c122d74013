/// Words that people type.
#pragma once

#include <fibula/export.hpp>

#include <string>
#include <vector>

namespace fibula {

/// The candidate that a word was probably meant to be, or an empty text when none is near.
FIBULA_API std::string closest_word(const std::string& word, const std::vector<std::string>& candidates);

}  // namespace fibula
