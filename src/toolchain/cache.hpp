/// What compilers answered, kept between calls.
#pragma once

#include <fibula/cache.hpp>
#include <fibula/toolchain.hpp>

#include <optional>

namespace fibula {

/// The key under which an answer is kept: the compiler's real path and stamp, its flags, and the environment variables
/// that change its answers.
std::string key_of(const std::filesystem::path& compiler, const Question& question);

/// Variables that GCC and Clang add to every command, where they are set: "LIBRARY_PATH=/opt/lib".
std::vector<std::string> influencing_environment();

/// Nothing when none is kept, or when a file that it rests on changed.
std::optional<Toolchain> kept_toolchain(const Cache& cache, const std::string& key);
void keep_toolchain(const Cache& cache, const std::string& key, const Toolchain& toolchain);

}  // namespace fibula
