#pragma once

#include <fibula/cache.hpp>
#include <fibula/card.hpp>

namespace fibula {

/// `read_card`, or what it gave when the file was the same: reading TOML takes ten times as long. Errors: as it.
Result<Card> read_or_kept_card(const std::filesystem::path& folder, const Cache& cache);

}  // namespace fibula
