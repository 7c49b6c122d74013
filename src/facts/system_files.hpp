/// Run-time files that come with an operating system.
#pragma once

#include <string>

namespace fibula {

/// DLLs that come with Windows itself, by any spelling of case. What compilers bring is not among them.
bool is_windows_dll(const std::string& name);

/// An install name of macOS' own libraries and frameworks.
bool is_macos_file(const std::string& name);

}  // namespace fibula
