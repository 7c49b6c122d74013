/// Words for those who read them next: compilers, shells, make.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// One word of a POSIX shell (POSIX.1-2017, Shell Command Language, 2.2): as it is where that is safe, else in single
/// quotes.
std::string shell_word(std::string_view word);

/// One word of a command line of Windows, which MSVC-style compilers read in their response files (Microsoft C++
/// documentation, "Parsing C command-line arguments"): in double quotes where that is needed, a quote with a back-slash
/// before it, and back-slashes before a quote twice.
std::string windows_word(std::string_view word);

/// Words with spaces between, each for the shell.
std::string shell_words(const std::vector<std::string>& words);

/// Whether a word can stand in a file that holds a value a line: no form of quoting there keeps a line end or a zero.
bool fits_on_a_line(std::string_view word);

/// A text as the value of a make variable (POSIX.1-2017, make, "Macros"; GNU make manual, 3.1 and 6.1): `$` and `#`
/// keep their meaning for the shell that make hands it to.
std::string make_value(std::string_view text);

}  // namespace fibula
