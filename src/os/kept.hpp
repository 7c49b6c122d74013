/// The one store of what is kept between calls: a file for each answer, `<cache>/kept/<kind>/<digest of the key>`.
#pragma once

#include <fibula/cache.hpp>

#include <optional>
#include <string>
#include <string_view>

namespace fibula {

/// What is kept, under a name that says of which form it is: raise the number whenever the form or the meaning changes,
/// so that older answers are not taken for new ones.
namespace kept_kind {
inline constexpr std::string_view compilers = "compilers-10", headers = "headers-6", closures = "closures-2",
                                  providers = "providers-3", cards = "cards-4", locks = "locks-1", starts = "starts-1",
                                  digests = "digests-1", recipes = "recipes-1";
}  // namespace kept_kind

/// The answer kept under a key; nothing where there is none, or it was cut short or damaged.
std::optional<std::string> kept_answer(const Cache& cache, std::string_view kind, std::string_view key);

/// Best effort: what cannot be kept is found out again the next time. Now and then removes what is old.
void keep_answer(const Cache& cache, std::string_view kind, std::string_view key, std::string_view answer);

/// Where an answer lies that is used in place; empty where nothing is kept. Marks it as used.
std::filesystem::path place_of_answer(const Cache& cache, std::string_view kind, std::string_view key);

/// Removes what was not used for a month, and the oldest of what is more than a gigabyte; at most once a day.
void prune(const Cache& cache);

}  // namespace fibula
