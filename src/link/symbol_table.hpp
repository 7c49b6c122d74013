#pragma once

#include "link/link_file.hpp"

#include <string>
#include <string_view>
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
  bool by_old_version = false;    ///< shared: only versions that are not the default one, which objects do not get
  bool wanted_in_thread = false, wanted_plainly = false;    ///< by references of objects: one for each thread, or one
  bool defined_in_thread = false, defined_plainly = false;  ///< the same of definitions
  int32_t definer = -1;         ///< the defining object's position; -1: none or a shared library
  int32_t shared_user = -1;     ///< the first shared library that needs it, by its position
  int32_t last_reference = -1;  ///< in the table's list of them
};

/// An object that entered the link, with the COMDAT groups that an earlier object had already brought.
struct EnteredObject {
  const LinkObject* object;
  std::vector<bool> dropped_groups;
};

/// The linker's table of names, by their numbers in the table of all names.
class SymbolTable {
 public:
  struct Clash {
    NameId symbol;
    std::string first, second;
  };

  explicit SymbolTable(NameTable& names) : names_(names) {}

  /// `weak_serves_others`: see LinkLine.
  void add_object(const LinkObject& object, bool weak_serves_others = true);
  /// Whether a shared library defines a name that is wanted and not defined yet: what --as-needed asks.
  bool satisfies(LinkFile& shared) const;
  /// `needs_count`: what it leaves undefined must be found, as linkers of ELF programs ask.
  void add_shared(LinkFile& shared, bool needs_count = true);
  /// Only what other shared libraries need: its names do not satisfy objects.
  void add_needed_by_shared(LinkFile& shared);
  /// An archive's member is wanted for this name; a tentative definition is wanted only when the member has a real one.
  SymbolState state_of(NameId name) const {
    return name < entries_.size() ? entries_[name].state : SymbolState::unseen;
  }
  SymbolState state_of(std::string_view name) const;
  void define(std::string_view name) { entry(names_.keep(name)).state = SymbolState::defined; }
  void want(std::string_view name);

  const NameTable& names() const { return names_; }
  /// The names that nothing defines, each once.
  std::vector<NameId> undefined() const;
  /// Names that one object takes for a thread's own and another one not.
  std::vector<NameId> thread_clashes() const;
  /// Names that an object defines for its own file only, and that a shared library needs and no other one has.
  std::vector<NameId> hidden_from_shared() const;
  const SymbolEntry& at(NameId name) const { return entries_[name]; }
  /// Those made while the name was undefined, in their order.
  std::vector<Reference> references_to(NameId name) const;
  const std::vector<EnteredObject>& objects() const { return objects_; }
  const std::vector<Clash>& clashes() const { return clashes_; }
  bool has_section(std::string_view name) const;

 private:
  struct Source {
    const ExportIndex* exports;
    bool serves_objects;
  };
  struct Link {
    Reference reference;
    int32_t before;  ///< the reference to the same name that was made before; -1: none
  };

  SymbolEntry& entry(NameId name);
  void refer(const LinkSymbol& symbol, uint32_t object);
  void define_in(const LinkSymbol& symbol, uint32_t object);
  void open(NameId name, SymbolEntry& known, bool weak, bool for_object);
  static bool has_for(const ExportIndex& exports, std::string_view name, const SymbolEntry& known, bool for_object);
  bool serve(const Source& source, NameId name, SymbolEntry& known, bool for_object) const;
  void settle(const Source& source);
  void add_references_of_shared(LinkFile& shared);

  NameTable& names_;
  std::vector<SymbolEntry> entries_;  ///< by name
  std::vector<bool> groups_;          ///< by name: whether an object brought this COMDAT group
  std::vector<Link> references_;
  std::vector<EnteredObject> objects_;
  std::vector<Clash> clashes_;
  std::vector<Source> sources_;  ///< shared libraries, in the order in which they came
  std::vector<NameId> open_;     ///< names that were undefined when they were last looked at
};

}  // namespace fibula
