#include "fit/order.hpp"

#include "facts/facts.hpp"
#include "fit/defined_names.hpp"
#include "fit/symbol_table.hpp"

#include <algorithm>
#include <deque>
#include <optional>
#include <unordered_map>

namespace fibula {
namespace {

constexpr int32_t program = -1;

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
    for (const auto& name : stand_in.defines) resolved_[name] = program;
    for (const auto& name : stand_in.needs) wanted_.emplace_back(name, program);
    for (const auto& path : objects) {
      auto file = files_.open(path);
      if (!file) return pass(file);
      auto object = (*file)->object(0);
      if (!object) return pass(object);
      enter((*object)->image.symbols, program);
    }
    return true;
  }

  Result<bool> follow() {
    while (!wanted_.empty()) {
      const auto [name, user] = wanted_.front();
      wanted_.pop_front();
      if (auto satisfied = satisfy(name, user); !satisfied) return satisfied;
    }
    return true;
  }

  const std::vector<std::set<size_t>>& edges() const { return edges_; }
  /// What only shared libraries refer to is not used: the loader brings it with them.
  const std::vector<bool>& used() const { return used_; }
  const std::vector<bool>& essential() const { return essential_; }

 private:
  struct Definer {
    size_t library;
    uint32_t member;
  };

  void note(std::string_view name, Definer definer) {
    const auto [known, fresh] = definers_.try_emplace(name, definer);
    if (!fresh && known->second.library != definer.library) others_.emplace(name, definer);
  }

  /// An archive is searched until it gives nothing more before the next one is: its own definition comes first.
  std::optional<Definer> definer_for(std::string_view name, int32_t user) const {
    const auto found = definers_.find(name);
    if (found == definers_.end()) return std::nullopt;
    const auto [begin, end] = others_.equal_range(name);
    for (auto other = begin; other != end; ++other) {
      if (static_cast<int32_t>(other->second.library) == user) return other->second;
    }
    return found->second;
  }

  void index(size_t i) {
    if (const Archive* archive = libraries_[i]->archive()) {
      for (const auto& entry : archive->index) note(entry.symbol, {i, entry.member});
    } else if (libraries_[i]->is_shared()) {
      for (const auto& symbol : libraries_[i]->image().dynamic_symbols) {
        if (is_exported(symbol)) note(symbol.name, {i, 0});
      }
    } else if (libraries_[i]->script() != nullptr) {
      each_defined_name(libraries_[i]->content(), [&](std::string_view name) {
        note(script_names_.emplace_back(name), {i, 0});
      });
    }
  }

  void enter(const std::vector<ImageSymbol>& symbols, int32_t owner) {
    for (const auto& symbol : symbols) {
      if (!is_global(symbol)) continue;
      if (symbol.defined) resolved_.try_emplace(symbol.name, owner);
      if (!symbol.defined && symbol.binding != Binding::weak) wanted_.emplace_back(symbol.name, owner);
    }
  }

  void connect(int32_t user, int32_t definer) {
    const bool by_shared = user != program && libraries_[static_cast<size_t>(user)]->is_shared();
    if (definer != program && user != definer && !by_shared) used_[static_cast<size_t>(definer)] = true;
    if (user != program && definer != program && user != definer)
      edges_[static_cast<size_t>(user)].insert(static_cast<size_t>(definer));
  }

  Result<bool> satisfy(std::string_view name, int32_t user) {
    if (const auto known = resolved_.find(name); known != resolved_.end()) {
      connect(user, known->second);
      return true;
    }
    const auto found = definer_for(name, user);
    if (!found) return true;
    const auto [library, member] = *found;
    const auto owner = static_cast<int32_t>(library);
    connect(user, owner);
    if (!others_.contains(name)) essential_[library] = true;
    if (!entered_[library].insert(member).second) return true;
    LinkFile& file = *libraries_[library];
    if (file.script() != nullptr) return true;
    if (file.is_shared()) {
      enter(file.image().dynamic_symbols, owner);
      return true;
    }
    auto object = file.object(member);
    if (!object) return pass(object);
    enter((*object)->image.symbols, owner);
    return true;
  }

  FileStore& files_;
  const std::vector<LinkFile*>& libraries_;
  std::vector<std::set<size_t>> edges_;
  std::vector<std::set<uint32_t>> entered_;
  std::vector<bool> used_;
  std::vector<bool> essential_;
  std::deque<std::string> script_names_;                       ///< of files that are not kept open
  std::unordered_map<std::string_view, Definer> definers_;     ///< the first that defines each name
  std::unordered_multimap<std::string_view, Definer> others_;  ///< the further ones
  std::unordered_map<std::string_view, int32_t> resolved_;
  std::deque<std::pair<std::string_view, int32_t>> wanted_;
};

/// Everything that can be reached from each node.
std::vector<std::set<size_t>> reach(const std::vector<std::set<size_t>>& edges) {
  std::vector<std::set<size_t>> reached(edges.size());
  for (size_t start = 0; start < edges.size(); ++start) {
    std::vector<size_t> open(edges[start].begin(), edges[start].end());
    while (!open.empty()) {
      const size_t node = open.back();
      open.pop_back();
      if (reached[start].insert(node).second) open.insert(open.end(), edges[node].begin(), edges[node].end());
    }
  }
  return reached;
}

/// Circles become one place; then always the first place, in the order given, that no remaining place needs to stand
/// before it.
OrderedFiles arrange(const std::vector<std::set<size_t>>& edges) {
  const auto reached = reach(edges);
  const auto in_circle = [&](size_t a, size_t b) {
    return a == b || (reached[a].contains(b) && reached[b].contains(a));
  };
  std::vector<bool> placed(edges.size());
  OrderedFiles order;
  const auto is_free = [&](size_t candidate) {
    for (size_t other = 0; other < edges.size(); ++other) {
      if (!placed[other] && !in_circle(other, candidate) && reached[other].contains(candidate)) return false;
    }
    return true;
  };
  for (size_t count = 0; count < edges.size();) {
    size_t next = 0;
    while (placed[next] || !is_free(next)) ++next;
    std::vector<size_t> place;
    for (size_t other = 0; other < edges.size(); ++other) {
      if (!placed[other] && in_circle(next, other)) place.push_back(other);
    }
    for (const size_t member : place) placed[member] = true;
    count += place.size();
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
