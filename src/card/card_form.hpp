/// The form in which cards hold typed values.
#pragma once

#include "base/toml.hpp"

#include <fibula/card.hpp>
#include <fibula/fact_value.hpp>

namespace fibula {

/// Raised when older cards cannot be read any more; `card` in the file.
constexpr int64_t card_form = 2;

/// The card that a `card.toml` in this folder with this content would be. Errors: malformed (with its line).
Result<Card> card_in(const toml::Table& table, const std::filesystem::path& folder);

/// A fact's value as TOML: a text, a number, a list, or an inline table.
std::string toml_value(const FactValue& value);

/// The value of a fact that is there. Errors: malformed (of another type than the fact has), which the reader keeps
/// too.
Result<FactValue> read_fact(toml::Reader& reader, const std::string& id, const std::filesystem::path& file);

}  // namespace fibula
