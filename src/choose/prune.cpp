#include <fibula/prune.hpp>

#include "base/text.hpp"
#include "choose/lock.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// Whether a project's lock file names the version, or may.
bool is_locked(const fs::path& project, const Card& card) {
  const fs::path file = project / "fibula.lock";
  const auto text = read_text(file);
  if (!text) return text.error().code != Code::absent;
  const auto lock = Lock::parsed(*text, file);
  return !lock || lock->names(card.name, card.version);
}

std::chrono::system_clock::time_point came(const Card& card) {
  return std::chrono::system_clock::time_point(std::chrono::duration_cast<std::chrono::system_clock::duration>(
      std::chrono::nanoseconds(stamp_of(card.entry / "card.toml").time)));
}

}  // namespace

Result<std::vector<UnusedVersion>> unused_versions(const Shelf& shelf, std::chrono::seconds older) {
  const Shelf own = Shelf::at(shelf.folder());
  const auto cards = own.libraries();
  if (!cards) return fail(cards.error());
  const auto limit = std::chrono::system_clock::now() - older;
  std::vector<UnusedVersion> unused;
  std::string last;
  for (const auto& card : *cards) {
    // The newest of each comes first.
    const bool newest = card.name != last;
    last = card.name;
    if (newest || came(card) > limit) continue;
    const auto uses = own.uses(card.name, card.version);
    if (std::any_of(uses.begin(), uses.end(), [&](const ShelfUse& use) { return is_locked(use.project, card); }))
      continue;
    unused.push_back({card.name, card.version,
                      uses.empty() ? "never used"
                                   : fmt::format("no lock file of the {} that used it names it",
                                                 text::count(uses.size(), "project"))});
  }
  return unused;
}

}  // namespace fibula
