/// The form in which a card holds what a library is built from: `[source]`.
#pragma once

#include "base/toml.hpp"

#include <fibula/source_code.hpp>
#include <fibula/toolchain.hpp>

#include <string_view>

namespace fibula {

/// `[source]` of a card. Errors: malformed (with its line).
Result<SourceCode> read_source_code(toml::Reader& card, const std::filesystem::path& file);

/// The same as text, with its headings; empty where there is nothing to build.
std::string source_text(const SourceCode& code);

/// The name that a card's `system` has for what a compiler builds for: linux, windows, macos, bare-metal.
std::string system_name(const Toolchain& toolchain);
/// Whether it is one of these.
bool is_system_name(std::string_view name);

}  // namespace fibula
