#pragma once

#include <fibula/toolchain.hpp>

#include <optional>

namespace fibula {

/// The key under which an answer is kept: the compiler's real path, size and time, its flags, and the environment
/// variables that change its answers.
std::string cache_key(const std::filesystem::path& compiler, const Question& question);

/// Variables that GCC and Clang add to every command, where they are set: "LIBRARY_PATH=/opt/lib".
std::vector<std::string> influencing_environment();

std::optional<Toolchain> kept_answer(const std::string& key);
/// Best effort: an answer that cannot be kept is asked again the next time.
void keep_answer(const std::string& key, const Toolchain& toolchain);

}  // namespace fibula
