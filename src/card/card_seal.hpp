/// The first line of a card that `take` wrote tells whether somebody has corrected it since.
#pragma once

#include <string>
#include <string_view>

namespace fibula {

/// The text behind a comment that names its digest.
std::string sealed_card(std::string_view text);

/// Whether the text differs from what was written; one without such a line was written by a person.
bool was_edited(std::string_view sealed);

}  // namespace fibula
