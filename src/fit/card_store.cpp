#include "fit/card_store.hpp"

#include <algorithm>
#include <atomic>
#include <thread>

namespace fibula {
namespace {

std::string key_of(const LibraryUse& use) {
  return use.folder.empty() ? use.name : use.folder.string();
}

Result<std::vector<Card>> read_cards(const Shelf& shelf, const LibraryUse& use) {
  if (use.folder.empty()) return shelf.versions(use.name);
  auto card = read_card(use.folder);
  if (!card) return pass(card);
  return std::vector<Card>{std::move(*card)};
}

}  // namespace

void CardStore::read_ahead(const std::vector<LibraryUse>& uses) {
  constexpr size_t worth_a_thread = 8;
  const size_t threads = std::min<size_t>(std::thread::hardware_concurrency(), uses.size() / worth_a_thread);
  if (threads < 2) return;
  std::vector<Result<std::vector<Card>>> read(uses.size());
  std::atomic<size_t> next = 0;
  const auto work = [&] {
    for (size_t i = next++; i < uses.size(); i = next++) read[i] = read_cards(shelf_, uses[i]);
  };
  std::vector<std::thread> helpers;
  for (size_t i = 1; i < threads; ++i) helpers.emplace_back(work);
  work();
  for (auto& helper : helpers) helper.join();
  for (size_t i = 0; i < uses.size(); ++i) {
    if (read[i]) cards_.emplace(key_of(uses[i]), std::move(*read[i]));
  }
}

Result<const std::vector<Card>*> CardStore::candidates(const LibraryUse& use) {
  const std::string key = key_of(use);
  if (const auto known = cards_.find(key); known != cards_.end()) return &known->second;
  auto read = read_cards(shelf_, use);
  if (!read) return pass(read);
  return &(cards_[key] = std::move(*read));
}

}  // namespace fibula
