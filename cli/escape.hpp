/// Texts from elsewhere on a terminal: names of files, symbols and sections can hold any byte.
#pragma once

#include <string>
#include <string_view>

namespace cli {

/// The text with every byte and character that a terminal would obey, or that hides what is there, written as an
/// escape: `\x1b`, `\u202e`; a byte that is no UTF-8 as `\xe9`. Tabs stay, and line ends do in a text of many lines: in
/// one line, a name that brings its own would make what is no message look like one. Text without any is unchanged.
enum class Lines { one, many };
std::string escaped(std::string_view text, Lines lines);

}  // namespace cli
