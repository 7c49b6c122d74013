#include "take/folder_card.hpp"

#include "os/files.hpp"
#include "os/stamp.hpp"

#include <fibula/take.hpp>

#include <fmt/format.h>

namespace fibula {

Result<Card> card_of_folder(const fs::path& folder, const std::string& name) {
  const bool has_card = stamp_of(folder / "card.toml").there();
  if (has_card) {
    auto card = read_card(folder);
    if (!card || card->in_place) return card;
    if (!stamp_of(folder / "files").is_folder()) card->root = absolute_path(folder);
    card->lies_open = true;
    return card;
  }
  if (!stamp_of(folder).is_folder())
    return fail({.code = Code::absent,
                 .what = "is no folder, so no library lies there",
                 .file = folder.string(),
                 .hint = "correct folder in the library's table, or take the library onto the shelf"});
  auto described = describe(folder);
  if (!described) return pass(described);
  Card card = std::move(described->card);
  card.name = name;
  if (card.version.empty()) card.version = std::string(1, '0');
  card.entry = absolute_path(folder);
  card.lies_open = true;
  return card;
}

}  // namespace fibula
