/// What was built of libraries that came as source, kept on a shelf beside the entries:
///
///     .built/<name>/<version>/<key>/card.toml      its variant; the last file of it that comes from a server
///                                   built.sha256   digests of the card and of all files
///                                   files/         what is linked and run, headers that were made
#pragma once

#include <fibula/card.hpp>

#include <optional>

namespace fibula {

inline constexpr std::string_view built_folder = ".built";
inline constexpr std::string_view built_list = "built.sha256";

/// Nothing where it is not there, or not whole: it is built again then.
std::optional<Card> read_built(const std::filesystem::path& folder);

/// Puts an outcome in its place in a store: a copy of `files`. What is there already under the key stays.
/// Errors: io, unreadable.
Result<void> keep_built(const std::filesystem::path& store, const std::string& place, Card card,
                        const std::filesystem::path& files);

}  // namespace fibula
