#include "link/name_table.hpp"

#include "base/digest.hpp"

#include <algorithm>
#include <array>
#include <bit>

namespace fibula {
namespace {

uint32_t digest_of(std::string_view name) {
  return static_cast<uint32_t>(quick_digest(name));
}

}  // namespace

/// The slot that has the name, or the free one where it belongs.
size_t NameTable::place_of(std::string_view name, uint32_t digest) const {
  const size_t mask = slots_.size() - 1;
  size_t place = digest & mask;
  while (slots_[place].name != 0) {
    const Slot& slot = slots_[place];
    if (slot.digest == digest && names_[slot.name - 1] == name) break;
    place = (place + 1) & mask;
  }
  return place;
}

void NameTable::make_room(size_t more) {
  const size_t wanted = std::bit_ceil(2 * (names_.size() + more));
  if (wanted <= slots_.size()) return;
  std::vector<Slot> old(wanted);
  std::swap(old, slots_);
  const size_t mask = slots_.size() - 1;
  for (const Slot& slot : old) {
    if (slot.name == 0) continue;
    size_t place = slot.digest & mask;
    while (slots_[place].name != 0) place = (place + 1) & mask;
    slots_[place] = slot;
  }
}

NameId NameTable::enter(std::string_view name, uint32_t digest) {
  Slot& slot = slots_[place_of(name, digest)];
  if (slot.name == 0) {
    names_.push_back(name);
    slot = {digest, static_cast<uint32_t>(names_.size())};
  }
  return slot.name - 1;
}

NameId NameTable::borrow(std::string_view name) {
  make_room(1);
  return enter(name, digest_of(name));
}

/// Looking a name up waits for memory twice, for the slot and for the name in it: the slots of a whole batch are asked
/// for before the first is looked at.
std::vector<NameId> NameTable::borrow_all(const std::vector<std::string_view>& names) {
  constexpr size_t batch = 32;
  make_room(names.size());
  std::vector<NameId> numbers;
  numbers.reserve(names.size());
  std::array<uint32_t, batch> digests{};
  for (size_t begin = 0; begin < names.size(); begin += batch) {
    const size_t count = std::min(batch, names.size() - begin);
    for (size_t i = 0; i < count; ++i) {
      digests[i] = digest_of(names[begin + i]);
      __builtin_prefetch(&slots_[digests[i] & (slots_.size() - 1)]);
    }
    for (size_t i = 0; i < count; ++i) {
      const Slot& slot = slots_[digests[i] & (slots_.size() - 1)];
      if (slot.name != 0) __builtin_prefetch(names_[slot.name - 1].data());
    }
    for (size_t i = 0; i < count; ++i) numbers.push_back(enter(names[begin + i], digests[i]));
  }
  return numbers;
}

NameId NameTable::keep(std::string_view name) {
  if (const auto known = find(name)) return *known;
  return borrow(kept_.emplace_back(name));
}

std::optional<NameId> NameTable::find(std::string_view name) const {
  const Slot& slot = slots_[place_of(name, digest_of(name))];
  if (slot.name == 0) return std::nullopt;
  return slot.name - 1;
}

}  // namespace fibula
