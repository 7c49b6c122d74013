/// The marks that stand in texts and definitions of libraries that come as source, for what is known later.
#pragma once

#include <initializer_list>
#include <string>
#include <string_view>
#include <utility>

namespace fibula {

using Placeholders = std::initializer_list<std::pair<std::string_view, std::string>>;

/// The text with each mark replaced wherever it stands.
std::string filled(std::string text, Placeholders values);

/// @version@, @major@, @minor@ and @patch@ of a version; where a part is not said or no number, 0.
std::string with_version(std::string text, const std::string& version);

}  // namespace fibula
