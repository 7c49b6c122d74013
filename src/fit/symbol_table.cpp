#include "fit/symbol_table.hpp"

#include "facts/facts.hpp"
#include "fit/substitutes.hpp"

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

/// A DLL that is linked itself, without an import library, gives names without what objects put around them.
bool provided_by_dll(const ExportIndex& exports, std::string_view name) {
  if (const auto imported = imported_name(name); !imported.empty()) name = imported;
  if (exports.contains(name)) return true;
  if (!name.starts_with('_')) return false;
  return exports.contains(name.substr(1)) || exports.contains(name.substr(1, name.rfind('@') - 1));
}

/// Looks a reference up: `foo@VERS` wants this very version of foo (binutils' documentation of .symver).
bool provides(const ExportIndex& exports, std::string_view name) {
  const size_t at = name.find('@');
  if (exports.of_dll()) return provided_by_dll(exports, name);
  if (at == std::string_view::npos) return exports.contains(name);
  return exports.contains(name.substr(0, at), name.substr(name.find_first_not_of('@', at)));
}

}  // namespace

/// A name that nothing defines yet: a shared library that came before may have it.
void SymbolTable::open(std::string_view name, SymbolEntry& entry, bool weak, bool for_object) {
  const auto serves = [&](const Source& source) {
    return (source.serves_objects || !for_object) && !entry.hidden && provides(*source.exports, name);
  };
  if (std::any_of(sources_.begin(), sources_.end(), serves)) {
    entry.state = SymbolState::shared;
    return;
  }
  entry.state = weak ? SymbolState::weak_undefined : SymbolState::undefined;
  open_.push_back(name);
}

/// A new shared library: what was open and is defined there is open no more.
void SymbolTable::settle(const Source& source) {
  sources_.push_back(source);
  std::erase_if(open_, [&](std::string_view name) {
    SymbolEntry& entry = entries_[name];
    if (entry.state > SymbolState::undefined) return true;
    const bool serves =
        (source.serves_objects || !entry.wanted_by_object) && !entry.hidden && provides(*source.exports, name);
    if (serves) entry.state = SymbolState::shared;
    return serves;
  });
}

void SymbolTable::refer(SymbolEntry& entry, const ImageSymbol& symbol, uint32_t object) {
  const bool weak = symbol.binding == Binding::weak;
  const bool hidden = !shows_outside(symbol);
  entry.hidden = entry.hidden || hidden;
  // Only objects satisfy a hidden reference: what a shared library gave is taken back.
  if (entry.state == SymbolState::unseen || (entry.state == SymbolState::shared && hidden))
    open(symbol.name, entry, weak, true);
  if (entry.state == SymbolState::weak_undefined && !weak) entry.state = SymbolState::undefined;
  entry.wanted_by_object = entry.wanted_by_object || !weak;
  if (entry.state <= SymbolState::undefined && !weak) entry.references.push_back({object, symbol.index});
}

void SymbolTable::define_in(SymbolEntry& entry, const ImageSymbol& symbol, std::string_view name, uint32_t object) {
  entry.hidden = entry.hidden || !shows_outside(symbol);
  const bool weak = symbol.binding == Binding::weak;
  if (!weak && !symbol.common && entry.state == SymbolState::defined && entry.definer >= 0) {
    clashes_.push_back(
        {name, objects_[static_cast<size_t>(entry.definer)].object->label, objects_[object].object->label});
    return;
  }
  const SymbolState next = symbol.common ? SymbolState::common
                           : weak        ? SymbolState::weak_defined
                                         : SymbolState::defined;
  // A weak definition stands until a strong one comes; a common one gives way to any real one.
  const bool keeps = entry.state == SymbolState::defined || (entry.state == SymbolState::weak_defined && weak) ||
                     (entry.state == SymbolState::common && weak);
  if (keeps) return;
  entry.state = next;
  entry.definer = static_cast<int32_t>(object);
}

void SymbolTable::add_symbol(const ImageSymbol& symbol, uint32_t object, bool refers) {
  if (!is_global(symbol)) return;
  const std::string_view name = symbol.defined ? definition_name(symbol.name) : symbol.name;
  SymbolEntry& entry = entries_[name];
  if (!symbol.defined || refers) return refer(entry, symbol, object);
  define_in(entry, symbol, name, object);
}

void SymbolTable::add_object(const LinkObject& object, bool weak_serves_others) {
  const auto position = static_cast<uint32_t>(objects_.size());
  EnteredObject entered{&object, std::vector<bool>(object.image.groups.size())};
  for (size_t i = 0; i < object.image.groups.size(); ++i) {
    entered.dropped_groups[i] = !groups_.emplace(object.image.groups[i], position).second;
  }
  objects_.push_back(std::move(entered));
  for (const auto& symbol : object.image.symbols) {
    // A definition in a COMDAT group that an earlier object brought is a reference to that one's.
    const bool dropped = symbol.group >= 0 && objects_[position].dropped_groups[static_cast<size_t>(symbol.group)];
    const bool own_only = symbol.binding == Binding::weak && !weak_serves_others;
    add_symbol(symbol, position, dropped || own_only);
  }
}

bool SymbolTable::satisfies(LinkFile& shared) const {
  return std::any_of(open_.begin(), open_.end(), [&](std::string_view name) {
    const SymbolEntry& entry = entries_.at(name);
    const bool wanted =
        entry.state == SymbolState::undefined && !entry.hidden && (entry.wanted_by_object || entry.wanted_by_shared);
    return wanted && provides(shared.exports(), name);
  });
}

void SymbolTable::add_references_of_shared(const Image& shared, std::string_view label) {
  for (const auto& symbol : shared.dynamic_symbols) {
    if (symbol.defined || !is_global(symbol) || symbol.binding == Binding::weak) continue;
    SymbolEntry& entry = entries_[symbol.name];
    if (entry.state == SymbolState::unseen) open(symbol.name, entry, false, false);
    if (entry.state == SymbolState::weak_undefined) entry.state = SymbolState::undefined;
    entry.wanted_by_shared = true;
    if (entry.shared_user.empty()) entry.shared_user = label;
  }
}

void SymbolTable::add_shared(LinkFile& shared, std::string_view label, bool needs_count) {
  settle({&shared.exports(), true});
  if (needs_count) add_references_of_shared(shared.image(), label);
}

void SymbolTable::add_needed_by_shared(LinkFile& shared, std::string_view label) {
  settle({&shared.exports(), false});
  add_references_of_shared(shared.image(), label);
}

SymbolState SymbolTable::state_of(std::string_view name) const {
  const auto found = entries_.find(name);
  return found == entries_.end() ? SymbolState::unseen : found->second.state;
}

void SymbolTable::want(std::string_view name) {
  SymbolEntry& entry = entries_[name];
  if (entry.state == SymbolState::unseen) open(name, entry, false, true);
  entry.wanted_by_object = true;
}

bool SymbolTable::has_section(std::string_view name) const {
  return std::any_of(objects_.begin(), objects_.end(), [&](const EnteredObject& entered) {
    const auto& sections = entered.object->image.sections;
    return std::any_of(sections.begin(), sections.end(),
                       [&](const ImageSection& section) { return section.name == name; });
  });
}

}  // namespace fibula
