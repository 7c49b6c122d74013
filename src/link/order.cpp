#include "link/order.hpp"

#include "index/defined_names.hpp"
#include "link/symbol_table.hpp"

#include <algorithm>
#include <optional>

namespace fibula {
namespace {

constexpr int32_t program = -1, nobody = -2;

/// Which of some things have to do with which others: a square of bits.
class Relation {
 public:
  explicit Relation(size_t count) : rows_(count, std::vector<uint64_t>((count + 63) / 64)) {}

  size_t count() const { return rows_.size(); }
  bool has(size_t from, size_t to) const { return ((rows_[from][to / 64] >> (to % 64)) & 1U) != 0; }
  void add(size_t from, size_t to) { rows_[from][to / 64] |= uint64_t{1} << (to % 64); }

  /// Adds what can be reached over others (Warshall's algorithm, a row at a time).
  void close() {
    for (size_t over = 0; over < count(); ++over) {
      for (size_t from = 0; from < count(); ++from) {
        if (!has(from, over)) continue;
        for (size_t word = 0; word < rows_[from].size(); ++word) rows_[from][word] |= rows_[over][word];
      }
    }
  }

 private:
  std::vector<std::vector<uint64_t>> rows_;
};

/// A linker without left and right: every library is searched whenever a name is wanted. What it finds out is who needs
/// whom.
class Needs {
 public:
  Needs(FileStore& files, const std::vector<LinkFile*>& libraries)
      : files_(files),
        libraries_(libraries),
        edges_(libraries.size()),
        entered_(libraries.size()),
        used_(libraries.size()),
        essential_(libraries.size()) {
    for (size_t i = 0; i < libraries.size(); ++i) index(i);
  }

  Result<bool> add_program(const std::vector<std::filesystem::path>& objects, const StandIn& stand_in) {
    for (const auto& name : stand_in.defines) at(files_.names().keep(name)).owner = program;
    for (const auto& name : stand_in.needs) wanted_.emplace_back(files_.names().keep(name), program);
    for (const auto& path : objects) {
      auto file = files_.open(path);
      if (!file) return pass(file);
      auto object = (*file)->object(0);
      if (!object) return pass(object);
      enter((*object)->symbols, program);
    }
    return true;
  }

  Result<bool> follow() {
    for (size_t next = 0; next < wanted_.size(); ++next) {
      const auto [name, user] = wanted_[next];
      if (auto satisfied = satisfy(name, user); !satisfied) return satisfied;
    }
    return true;
  }

  /// From each file to those that it needs.
  const Relation& edges() const { return edges_; }
  /// What only shared libraries refer to is not used: the loader brings it with them.
  const std::vector<bool>& used() const { return used_; }
  const std::vector<bool>& essential() const { return essential_; }

 private:
  struct Definer {
    uint32_t library = 0;
    uint32_t member = 0;
    int32_t next = -1;  ///< another library that defines the same name
  };
  /// What is known of a name.
  struct Known {
    int32_t owner = nobody;  ///< who brought its definition into the link
    int32_t first = -1, last = -1;
  };

  Known& at(NameId name) {
    if (name >= known_.size()) known_.resize(files_.names().size());
    return known_[name];
  }

  void note(NameId name, uint32_t library, uint32_t member) {
    Known& known = at(name);
    if (known.last >= 0 && definers_[static_cast<size_t>(known.last)].library == library) return;
    const auto position = static_cast<int32_t>(definers_.size());
    definers_.push_back({library, member});
    (known.first < 0 ? known.first : definers_[static_cast<size_t>(known.last)].next) = position;
    known.last = position;
  }

  /// An archive is searched until it gives nothing more before the next one is: its own definition comes first.
  const Definer& definer_for(const Known& known, int32_t user) const {
    for (int32_t i = known.first; i >= 0; i = definers_[static_cast<size_t>(i)].next) {
      const Definer& definer = definers_[static_cast<size_t>(i)];
      if (static_cast<int32_t>(definer.library) == user) return definer;
    }
    return definers_[static_cast<size_t>(known.first)];
  }

  void index(size_t i) {
    LinkFile& file = *libraries_[i];
    const auto library = static_cast<uint32_t>(i);
    if (const Archive* archive = file.archive()) {
      const auto& names = file.index_names();
      for (size_t entry = 0; entry < names.size(); ++entry) note(names[entry], library, archive->index[entry].member);
    } else if (file.is_shared()) {
      for (const auto& symbol : file.shown_symbols()) note(symbol.name, library, 0);
    } else if (file.script() != nullptr) {
      each_defined_name(file.content(), [&](std::string_view name) { note(files_.names().keep(name), library, 0); });
    }
  }

  void enter(const std::vector<LinkSymbol>& symbols, int32_t owner) {
    for (const auto& symbol : symbols) {
      if (!symbol.defined && !symbol.weak) wanted_.emplace_back(symbol.name, owner);
      Known& known = at(symbol.name);
      if (symbol.defined && known.owner == nobody) known.owner = owner;
    }
  }

  void connect(int32_t user, int32_t definer) {
    if (definer == program || user == definer) return;
    const auto needed = static_cast<size_t>(definer);
    const bool by_shared = user != program && libraries_[static_cast<size_t>(user)]->is_shared();
    if (!by_shared) used_[needed] = true;
    if (user != program) edges_.add(static_cast<size_t>(user), needed);
  }

  Result<bool> satisfy(NameId name, int32_t user) {
    const Known known = at(name);
    if (known.owner != nobody) {
      connect(user, known.owner);
      return true;
    }
    if (known.first < 0) return true;
    const Definer definer = definer_for(known, user);
    const auto owner = static_cast<int32_t>(definer.library);
    connect(user, owner);
    if (known.first == known.last) essential_[definer.library] = true;
    LinkFile& file = *libraries_[definer.library];
    auto& entered = entered_[definer.library];
    if (entered.size() <= definer.member) entered.resize(definer.member + 1);
    if (entered[definer.member] || file.script() != nullptr) return true;
    entered[definer.member] = true;
    if (file.is_shared()) {
      enter(file.shown_symbols(), owner);
      enter(file.wanted_symbols(), owner);
      return true;
    }
    auto object = file.object(definer.member);
    if (!object) return pass(object);
    enter((*object)->symbols, owner);
    return true;
  }

  FileStore& files_;
  const std::vector<LinkFile*>& libraries_;
  Relation edges_;
  std::vector<std::vector<bool>> entered_;  ///< by library and member
  std::vector<bool> used_;
  std::vector<bool> essential_;
  std::vector<Known> known_;  ///< by name
  std::vector<Definer> definers_;
  std::vector<std::pair<NameId, int32_t>> wanted_;  ///< names, and who refers to them
};

/// Circles become one place; then always the first place, in the order given, that no remaining place needs to stand
/// before it.
OrderedFiles arrange(Relation reached) {
  reached.close();
  const size_t count = reached.count();
  const auto in_circle = [&](size_t a, size_t b) { return a == b || (reached.has(a, b) && reached.has(b, a)); };
  const auto must_precede = [&](size_t a, size_t b) { return reached.has(a, b) && !in_circle(a, b); };
  std::vector<size_t> waits_for(count);  // how many that are not placed yet must stand before it
  for (size_t a = 0; a < count; ++a) {
    for (size_t b = 0; b < count; ++b) waits_for[b] += must_precede(a, b) ? 1U : 0U;
  }
  std::vector<bool> placed(count);
  OrderedFiles order;
  for (size_t done = 0; done < count;) {
    size_t next = 0;
    while (placed[next] || waits_for[next] > 0) ++next;
    std::vector<size_t> place;
    for (size_t other = 0; other < count; ++other) {
      if (!placed[other] && in_circle(next, other)) place.push_back(other);
    }
    for (const size_t member : place) {
      placed[member] = true;
      for (size_t b = 0; b < count; ++b) waits_for[b] -= must_precede(member, b) ? 1U : 0U;
    }
    done += place.size();
    order.push_back(std::move(place));
  }
  return order;
}

}  // namespace

Result<DerivedOrder> derive_order(FileStore& files, const std::vector<std::filesystem::path>& objects,
                                  const StandIn& stand_in, const std::vector<LinkFile*>& libraries) {
  Needs needs(files, libraries);
  if (auto added = needs.add_program(objects, stand_in); !added) return pass(added);
  if (auto followed = needs.follow(); !followed) return pass(followed);
  return DerivedOrder{arrange(needs.edges()), needs.used(), needs.essential()};
}

}  // namespace fibula
