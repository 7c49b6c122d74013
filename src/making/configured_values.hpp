/// What a configure step fills into makefiles when it is told nothing.
#pragma once

#include <filesystem>
#include <map>
#include <string>

namespace fibula {

/// By name: what a script assigns in so many words (`pkgversion=1.19`), and of scripts that GNU Autoconf makes the
/// directories of the GNU Coding Standards ("Variables for Installation Directories"; the prefix is /usr/local),
/// PACKAGE and VERSION. Values may refer to others. Empty for a tree without a script.
std::map<std::string, std::string> configured_values(const std::filesystem::path& root);

}  // namespace fibula
