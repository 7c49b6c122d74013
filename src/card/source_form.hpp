/// The form in which a card holds what a library is built from: `[source]`.
#pragma once

#include "base/toml.hpp"

#include <fibula/source_code.hpp>

namespace fibula {

/// `[source]` of a card. Errors: malformed (with its line).
Result<SourceCode> read_source_code(toml::Reader& card, const std::filesystem::path& file);

/// The same as text, with its headings; empty where there is nothing to build.
std::string source_text(const SourceCode& code);

}  // namespace fibula
