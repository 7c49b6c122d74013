#include "link/symbol_table.hpp"

#include "facts/facts.hpp"
#include "link/substitutes.hpp"

#include <algorithm>

namespace fibula {
namespace {

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

/// Grows by what the names have grown: files are read while the link goes on.
SymbolEntry& SymbolTable::entry(NameId name) {
  if (name >= entries_.size()) entries_.resize(names_.size());
  return entries_[name];
}

/// Whether a shared library has a name for objects, which get the default version, or for other shared libraries, which
/// keep asking for an old one (a function that moved into the C library still has that there).
bool SymbolTable::has_for(const ExportIndex& exports, std::string_view name, const SymbolEntry& known,
                          bool for_object) {
  return provides(exports, name) || (!for_object && known.wanted_by_shared && exports.contains_any(name));
}

/// Whether a shared library serves a name; it is defined then.
bool SymbolTable::serve(const Source& source, NameId name, SymbolEntry& known, bool for_object) const {
  if (known.hidden || (for_object && !source.serves_objects)) return false;
  const auto text = names_.text(name);
  if (!has_for(*source.exports, text, known, for_object)) return false;
  known.by_old_version = !for_object && !provides(*source.exports, text);
  known.state = SymbolState::shared;
  return true;
}

/// A name that nothing defines yet: a shared library that came before may have it.
void SymbolTable::open(NameId name, SymbolEntry& known, bool weak, bool for_object) {
  known.by_old_version = false;
  for (const Source& source : sources_) {
    if (serve(source, name, known, for_object)) return;
  }
  known.state = weak ? SymbolState::weak_undefined : SymbolState::undefined;
  open_.push_back(name);
}

/// A new shared library: what was open and is defined there is open no more.
void SymbolTable::settle(const Source& source) {
  sources_.push_back(source);
  std::erase_if(open_, [&](NameId name) {
    SymbolEntry& entry = entries_[name];
    if (entry.state > SymbolState::undefined) return true;
    return serve(source, name, entry, entry.wanted_by_object);
  });
}

void SymbolTable::refer(const LinkSymbol& symbol, uint32_t object) {
  SymbolEntry& known = entry(symbol.name);
  (symbol.in_thread ? known.wanted_in_thread : known.wanted_plainly) = true;
  known.hidden = known.hidden || symbol.hidden;
  // Only objects satisfy a hidden reference: what a shared library gave is taken back.
  if (known.state == SymbolState::unseen ||
      (known.state == SymbolState::shared && (symbol.hidden || known.by_old_version)))
    open(symbol.name, known, symbol.weak, true);
  if (known.state == SymbolState::weak_undefined && !symbol.weak) known.state = SymbolState::undefined;
  known.wanted_by_object = known.wanted_by_object || !symbol.weak;
  if (known.state > SymbolState::undefined || symbol.weak) return;
  references_.push_back({{object, symbol.index}, known.last_reference});
  known.last_reference = static_cast<int32_t>(references_.size()) - 1;
}

void SymbolTable::define_in(const LinkSymbol& symbol, uint32_t object) {
  SymbolEntry& known = entry(symbol.name);
  (symbol.in_thread ? known.defined_in_thread : known.defined_plainly) = true;
  known.hidden = known.hidden || symbol.hidden;
  if (!symbol.weak && !symbol.common && known.state == SymbolState::defined && known.definer >= 0) {
    clashes_.push_back(
        {symbol.name, objects_[static_cast<size_t>(known.definer)].object->label, objects_[object].object->label});
    return;
  }
  const SymbolState next = symbol.common ? SymbolState::common
                           : symbol.weak ? SymbolState::weak_defined
                                         : SymbolState::defined;
  // A weak definition stands until a strong one comes; a common one gives way to any real one.
  const bool keeps = known.state == SymbolState::defined || (known.state == SymbolState::weak_defined && symbol.weak) ||
                     (known.state == SymbolState::common && symbol.weak);
  if (keeps) return;
  known.state = next;
  known.definer = static_cast<int32_t>(object);
}

void SymbolTable::add_object(const LinkObject& object, bool weak_serves_others) {
  const auto position = static_cast<uint32_t>(objects_.size());
  EnteredObject entered{&object, std::vector<bool>(object.groups.size())};
  if (groups_.size() < names_.size()) groups_.resize(names_.size());
  for (size_t i = 0; i < object.groups.size(); ++i) {
    entered.dropped_groups[i] = groups_[object.groups[i]];
    groups_[object.groups[i]] = true;
  }
  objects_.push_back(std::move(entered));
  const auto& dropped_groups = objects_.back().dropped_groups;
  for (const auto& symbol : object.symbols) {
    // A definition in a COMDAT group that an earlier object brought is a reference to that one's.
    const bool dropped = symbol.group >= 0 && dropped_groups[static_cast<size_t>(symbol.group)];
    const bool own_only = symbol.weak && !weak_serves_others;
    if (!symbol.defined || dropped || own_only) {
      refer(symbol, position);
    } else {
      define_in(symbol, position);
    }
  }
}

bool SymbolTable::satisfies(LinkFile& shared) const {
  return std::any_of(open_.begin(), open_.end(), [&](NameId name) {
    const SymbolEntry& known = entries_[name];
    if (known.state != SymbolState::undefined || known.hidden) return false;
    if (!known.wanted_by_object && !known.wanted_by_shared) return false;
    return has_for(shared.exports(), names_.text(name), known, known.wanted_by_object);
  });
}

void SymbolTable::add_references_of_shared(LinkFile& shared) {
  const auto position = static_cast<int32_t>(sources_.size()) - 1;
  for (const auto& symbol : shared.wanted_symbols()) {
    SymbolEntry& known = entry(symbol.name);
    known.wanted_by_shared = true;
    if (known.state == SymbolState::unseen) open(symbol.name, known, false, false);
    if (known.state == SymbolState::weak_undefined) known.state = SymbolState::undefined;
    if (known.shared_user < 0) known.shared_user = position;
  }
}

void SymbolTable::add_shared(LinkFile& shared, bool needs_count) {
  settle({&shared.exports(), true});
  if (needs_count) add_references_of_shared(shared);
}

void SymbolTable::add_needed_by_shared(LinkFile& shared) {
  settle({&shared.exports(), false});
  add_references_of_shared(shared);
}

SymbolState SymbolTable::state_of(std::string_view name) const {
  const auto known = names_.find(name);
  return known ? state_of(*known) : SymbolState::unseen;
}

void SymbolTable::want(std::string_view name) {
  const NameId number = names_.keep(name);
  SymbolEntry& known = entry(number);
  if (known.state == SymbolState::unseen) open(number, known, false, true);
  known.wanted_by_object = true;
}

std::vector<NameId> SymbolTable::undefined() const {
  std::vector<NameId> found;
  for (const NameId name : open_) {
    if (entries_[name].state == SymbolState::undefined) found.push_back(name);
  }
  std::sort(found.begin(), found.end());
  found.erase(std::unique(found.begin(), found.end()), found.end());
  return found;
}

std::vector<NameId> SymbolTable::thread_clashes() const {
  std::vector<NameId> found;
  for (NameId name = 0; name < entries_.size(); ++name) {
    const SymbolEntry& known = entries_[name];
    // The C library's is a thread's own where a shared library gives it (POSIX.1-2017, errno).
    const bool of_shared = known.state == SymbolState::shared && known.wanted_plainly && names_.text(name) == "errno";
    if ((known.defined_in_thread && known.wanted_plainly) || (known.defined_plainly && known.wanted_in_thread) ||
        of_shared)
      found.push_back(name);
  }
  return found;
}

std::vector<NameId> SymbolTable::hidden_from_shared() const {
  std::vector<NameId> found;
  for (NameId name = 0; name < entries_.size(); ++name) {
    const SymbolEntry& known = entries_[name];
    if (!known.hidden || !known.wanted_by_shared || known.definer < 0 || known.shared_user < 0) continue;
    const auto has = [&](const Source& source) { return has_for(*source.exports, names_.text(name), known, false); };
    if (std::none_of(sources_.begin(), sources_.end(), has)) found.push_back(name);
  }
  return found;
}

std::vector<Reference> SymbolTable::references_to(NameId name) const {
  std::vector<Reference> found;
  for (int32_t at = entries_[name].last_reference; at >= 0; at = references_[static_cast<size_t>(at)].before)
    found.push_back(references_[static_cast<size_t>(at)].reference);
  std::reverse(found.begin(), found.end());
  return found;
}

bool SymbolTable::has_section(std::string_view name) const {
  // Links read no sections: they are asked for by few, and then only where such a name is left over.
  return std::any_of(objects_.begin(), objects_.end(), [&](const EnteredObject& entered) {
    const auto image = read_image(entered.object->bytes, want_sections);
    return image && std::any_of(image->sections.begin(), image->sections.end(),
                                [&](const ImageSection& section) { return section.name == name; });
  });
}

}  // namespace fibula
