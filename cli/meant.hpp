#pragma once

#include <string>
#include <vector>

namespace cli {

/// The candidate that a word was probably meant to be, or an empty text when none is near.
std::string closest_word(const std::string& word, const std::vector<std::string>& candidates);

}  // namespace cli
