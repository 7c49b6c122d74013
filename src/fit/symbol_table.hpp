#pragma once

#include "fit/link_file.hpp"

#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

namespace fibula {

/// What the linker knows of one name. The order of a name's life: unseen, wanted in some way, defined in some way.
enum class SymbolState : uint8_t { unseen, weak_undefined, undefined, common, weak_defined, defined, shared };

struct Reference {
  uint32_t object = 0;  ///< position in SymbolTable::objects
  uint32_t symbol = 0;  ///< index in the object's table
};

struct SymbolEntry {
  SymbolState state = SymbolState::unseen;
  bool wanted_by_object = false;  ///< a strong reference from an object
  bool wanted_by_shared = false;  ///< a strong reference from a shared library
  bool hidden = false;            ///< a reference or definition that shared libraries have no part in
  int32_t definer = -1;           ///< the defining object's position; -1: none or a shared library
  std::string_view shared_user = {};
  std::vector<Reference> references = {};  ///< made while it was undefined
};

/// An object that entered the link, with the COMDAT groups that an earlier object had already brought.
struct EnteredObject {
  const LinkObject* object;
  std::vector<bool> dropped_groups;
};

/// The linker's table of names. Entries borrow their names from the files.
class SymbolTable {
 public:
  struct Clash {
    std::string_view symbol;
    std::string first, second;
  };

  /// `weak_serves_others`: see LinkLine.
  void add_object(const LinkObject& object, bool weak_serves_others = true);
  /// Whether a shared library defines a name that is wanted and not defined yet: what --as-needed asks.
  bool satisfies(LinkFile& shared) const;
  /// `needs_count`: what it leaves undefined must be found, as linkers of ELF programs ask.
  void add_shared(LinkFile& shared, std::string_view label, bool needs_count = true);
  /// Only what other shared libraries need: its names do not satisfy objects.
  void add_needed_by_shared(LinkFile& shared, std::string_view label);
  /// An archive's member is wanted for this name; a tentative definition is wanted only when the member has a real one.
  SymbolState state_of(std::string_view name) const;
  void define(std::string_view name) { entries_[name].state = SymbolState::defined; }
  void want(std::string_view name);

  const std::unordered_map<std::string_view, SymbolEntry>& entries() const { return entries_; }
  const std::vector<EnteredObject>& objects() const { return objects_; }
  const std::vector<Clash>& clashes() const { return clashes_; }
  bool has_section(std::string_view name) const;

 private:
  void add_symbol(const ImageSymbol& symbol, uint32_t object, bool refers);
  void refer(SymbolEntry& entry, const ImageSymbol& symbol, uint32_t object);
  void define_in(SymbolEntry& entry, const ImageSymbol& symbol, std::string_view name, uint32_t object);
  struct Source {
    const ExportIndex* exports;
    bool serves_objects;
  };
  void open(std::string_view name, SymbolEntry& entry, bool weak, bool for_object);
  void settle(const Source& source);
  void add_references_of_shared(const Image& shared, std::string_view label);

  std::unordered_map<std::string_view, SymbolEntry> entries_;
  std::unordered_map<std::string_view, uint32_t> groups_;
  std::vector<EnteredObject> objects_;
  std::vector<Clash> clashes_;
  std::vector<Source> sources_;         ///< shared libraries, in the order in which they came
  std::vector<std::string_view> open_;  ///< names that were undefined when they were last looked at
};

}  // namespace fibula
