#pragma once

#include <filesystem>
#include <string>

namespace fibula {

/// What a library is called in commands, from its file's name: `liba.so.1.2` -> `a`, `libmoon-2.0.so` -> `moon-2.0`,
/// `salt.dll` and `libsalt.dll.a` -> `salt`. A name is a hint, never evidence.
std::string library_stem(const std::filesystem::path& path);

}  // namespace fibula
