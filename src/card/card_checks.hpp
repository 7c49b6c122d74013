/// What names, paths and words of a card have to be like.
#pragma once

#include "base/toml.hpp"

namespace fibula {

/// Paths that a card may name: relative, and inside the library.
void check_paths(toml::Reader& reader, std::string_view key);

/// Words for compilers and linkers stand on one line wherever they are written.
void check_words(toml::Reader& reader, std::string_view key);

void check_name(toml::Reader& reader, std::string_view key, const std::string& name,
                bool (*is_right)(std::string_view));

}  // namespace fibula
