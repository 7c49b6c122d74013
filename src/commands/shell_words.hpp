/// Lines of shells and logs as the words of the commands in them.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// The simple commands of one line, in order: what stands between `;`, `&&`, `||`, `|` and `&`. Quotes and back-slashes
/// as a POSIX shell reads them (POSIX.1-2017, Shell Command Language, 2.2); redirections and assignments before a
/// command are left out; nothing is expanded. Of a line that ends inside quotes the last word is what there is.
std::vector<std::vector<std::string>> shell_commands(std::string_view line);

/// The words of one command line of Windows (Microsoft C++ documentation, "Parsing C command-line arguments"): only
/// double quotes quote, and back-slashes are ordinary unless they stand before one.
std::vector<std::string> windows_words(std::string_view line);

}  // namespace fibula
