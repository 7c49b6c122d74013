#include "choose/card_store.hpp"

#include "os/parallel.hpp"
#include "take/folder_card.hpp"
#include "take/requirements.hpp"

namespace fibula {
namespace {

std::string key_of(const LibraryUse& use) {
  return use.folder.empty() ? use.name : use.folder.string();
}

Result<std::vector<Card>> read_cards(const Shelf& shelf, const LibraryUse& use) {
  if (!use.folder.empty()) {
    auto card = card_of_folder(use.folder, use.name);
    if (!card) return pass(card);
    complete_requirements(*card, shelf);
    return std::vector<Card>{std::move(*card)};
  }
  auto cards = shelf.versions(use.name);
  if (!cards) return cards;
  for (auto& card : *cards) complete_requirements(card, shelf);
  return cards;
}

}  // namespace

void CardStore::read_ahead(const std::vector<LibraryUse>& uses) {
  constexpr size_t worth_a_thread = 8;
  std::vector<Result<std::vector<Card>>> read(uses.size());
  each_in_parallel(uses.size(), worth_a_thread, [&](size_t i) { read[i] = read_cards(shelf_, uses[i]); });
  for (size_t i = 0; i < uses.size(); ++i) {
    if (read[i]) cards_.emplace(key_of(uses[i]), std::move(*read[i]));
  }
}

const Card& CardStore::keep(Card card) {
  const std::lock_guard one_at_a_time(reading_);
  return further_.emplace_back(std::move(card));
}

Result<const std::vector<Card>*> CardStore::candidates(const LibraryUse& use) {
  const std::string key = key_of(use);
  const std::lock_guard one_at_a_time(reading_);
  if (const auto known = cards_.find(key); known != cards_.end()) return &known->second;
  auto read = read_cards(shelf_, use);
  if (!read) return pass(read);
  return &(cards_[key] = std::move(*read));
}

}  // namespace fibula
