#include "fit/symbol_table.hpp"

#include "facts/facts.hpp"

#include <algorithm>

namespace fibula {
namespace {

bool shows_outside(const ImageSymbol& symbol) {
  return symbol.visibility == Visibility::normal || symbol.visibility == Visibility::protected_;
}

/// `foo@@VERS` in an object defines foo; `foo@VERS` is a name of its own (binutils' documentation of .symver).
std::string_view definition_name(std::string_view name) {
  const size_t at = name.find("@@");
  return at == std::string_view::npos ? name : name.substr(0, at);
}

}  // namespace

bool is_exported(const ImageSymbol& symbol) {
  return symbol.defined && is_global(symbol) && shows_outside(symbol) && symbol.default_version;
}

void SymbolTable::refer(SymbolEntry& entry, const ImageSymbol& symbol, uint32_t object) {
  const bool weak = symbol.binding == Binding::weak;
  const bool hidden = !shows_outside(symbol);
  entry.hidden = entry.hidden || hidden;
  // Only objects satisfy a hidden reference: what a shared library gave is taken back.
  if (entry.state == SymbolState::shared && hidden) entry.state = SymbolState::undefined;
  if (entry.state == SymbolState::unseen) entry.state = weak ? SymbolState::weak_undefined : SymbolState::undefined;
  if (entry.state == SymbolState::weak_undefined && !weak) entry.state = SymbolState::undefined;
  entry.wanted_by_object = entry.wanted_by_object || !weak;
  if (entry.state <= SymbolState::undefined && !weak) entry.references.push_back({object, symbol.index});
}

void SymbolTable::define_in(SymbolEntry& entry, const ImageSymbol& symbol, std::string_view name, uint32_t object) {
  entry.hidden = entry.hidden || !shows_outside(symbol);
  const bool weak = symbol.binding == Binding::weak;
  if (!weak && !symbol.common && entry.state == SymbolState::defined && entry.definer >= 0) {
    clashes_.push_back({name, objects_[static_cast<size_t>(entry.definer)].object->label, objects_[object].object->label});
    return;
  }
  const SymbolState next = symbol.common ? SymbolState::common : weak ? SymbolState::weak_defined : SymbolState::defined;
  // A weak definition stands until a strong one comes; a common one gives way to any real one.
  const bool keeps = entry.state == SymbolState::defined || (entry.state == SymbolState::weak_defined && weak) ||
                     (entry.state == SymbolState::common && weak);
  if (keeps) return;
  entry.state = next;
  entry.definer = static_cast<int32_t>(object);
}

void SymbolTable::add_symbol(const ImageSymbol& symbol, uint32_t object, bool dropped) {
  if (!is_global(symbol)) return;
  const std::string_view name = symbol.defined ? definition_name(symbol.name) : symbol.name;
  versions_wanted_ = versions_wanted_ || (!symbol.defined && name.find('@') != std::string_view::npos);
  SymbolEntry& entry = entries_[name];
  // A definition in a COMDAT group that an earlier object brought is a reference to that one's.
  if (!symbol.defined || dropped) return refer(entry, symbol, object);
  define_in(entry, symbol, name, object);
}

void SymbolTable::add_object(const LinkObject& object) {
  const auto position = static_cast<uint32_t>(objects_.size());
  EnteredObject entered{&object, std::vector<bool>(object.image.groups.size())};
  for (size_t i = 0; i < object.image.groups.size(); ++i) {
    entered.dropped_groups[i] = !groups_.emplace(object.image.groups[i], position).second;
  }
  objects_.push_back(std::move(entered));
  for (const auto& symbol : object.image.symbols) {
    const bool dropped = symbol.group >= 0 && objects_[position].dropped_groups[static_cast<size_t>(symbol.group)];
    add_symbol(symbol, position, dropped);
  }
}

/// The entry of `foo@VERS` where an object refers to this very version of a shared library's symbol.
SymbolEntry* SymbolTable::wanted_version(const ImageSymbol& symbol) {
  if (!versions_wanted_ || symbol.version.empty() || !symbol.defined || !is_global(symbol)) return nullptr;
  const auto found = entries_.find(std::string(symbol.name) + "@" + std::string(symbol.version));
  return found == entries_.end() ? nullptr : &found->second;
}

bool SymbolTable::satisfies(const Image& shared) {
  const auto is_open = [](const SymbolEntry& entry) {
    return entry.state == SymbolState::undefined && !entry.hidden && (entry.wanted_by_object || entry.wanted_by_shared);
  };
  return std::any_of(shared.dynamic_symbols.begin(), shared.dynamic_symbols.end(), [&](const ImageSymbol& symbol) {
    const SymbolEntry* version = wanted_version(symbol);
    if (version != nullptr && is_open(*version)) return true;
    const auto found = is_exported(symbol) ? entries_.find(symbol.name) : entries_.end();
    return found != entries_.end() && is_open(found->second);
  });
}

void SymbolTable::add_references_of_shared(const Image& shared, std::string_view label) {
  for (const auto& symbol : shared.dynamic_symbols) {
    if (symbol.defined || !is_global(symbol) || symbol.binding == Binding::weak) continue;
    SymbolEntry& entry = entries_[symbol.name];
    if (entry.state == SymbolState::unseen || entry.state == SymbolState::weak_undefined) entry.state = SymbolState::undefined;
    entry.wanted_by_shared = true;
    if (entry.shared_user.empty()) entry.shared_user = label;
  }
}

void SymbolTable::add_shared(const Image& shared, std::string_view label) {
  for (const auto& symbol : shared.dynamic_symbols) {
    SymbolEntry* version = wanted_version(symbol);
    if (version != nullptr && version->state <= SymbolState::undefined) version->state = SymbolState::shared;
    if (!is_exported(symbol)) continue;
    SymbolEntry& entry = entries_[symbol.name];
    if (entry.state <= SymbolState::undefined && !entry.hidden) entry.state = SymbolState::shared;
  }
  add_references_of_shared(shared, label);
}

void SymbolTable::add_needed_by_shared(const Image& shared, std::string_view label) {
  for (const auto& symbol : shared.dynamic_symbols) {
    if (!is_exported(symbol)) continue;
    const auto found = entries_.find(symbol.name);
    if (found == entries_.end()) {
      entries_[symbol.name].state = SymbolState::shared;
    } else if (found->second.state == SymbolState::undefined && !found->second.wanted_by_object) {
      found->second.state = SymbolState::shared;
    }
  }
  add_references_of_shared(shared, label);
}

SymbolState SymbolTable::state_of(std::string_view name) const {
  const auto found = entries_.find(name);
  return found == entries_.end() ? SymbolState::unseen : found->second.state;
}

void SymbolTable::want(std::string_view name) {
  SymbolEntry& entry = entries_[name];
  if (entry.state <= SymbolState::undefined) entry.state = SymbolState::undefined;
  entry.wanted_by_object = true;
}

bool SymbolTable::has_section(std::string_view name) const {
  return std::any_of(objects_.begin(), objects_.end(), [&](const EnteredObject& entered) {
    const auto& sections = entered.object->image.sections;
    return std::any_of(sections.begin(), sections.end(), [&](const ImageSection& section) { return section.name == name; });
  });
}

}  // namespace fibula
