#include "take/inner_libraries.hpp"

#include "facts/system_files.hpp"
#include "os/files.hpp"
#include "take/offered_names.hpp"
#include "take/unit_relations.hpp"
#include "take/users_names.hpp"

#include <algorithm>

namespace fibula {
namespace {

std::string file_name(const Unit& unit) {
  return fs::path(unit.first().file).filename().string();
}

bool is_plugin(const Unit& unit) {
  return unit.first().facts.kind.value == Kind::plugin;
}

bool is_dll(const Unit& unit) {
  return unit.is_shared() && variant_target(unit.first().facts).format == Format::pe;
}

bool lie_together(const Unit& one, const Unit& other) {
  return folder_of(one) == folder_of(other) && variant_target(one.first().facts) == variant_target(other.first().facts);
}

class InnerLibraries {
 public:
  InnerLibraries(const Source& source, const Units& units, const std::map<const Unit*, std::string>& apart)
      : source_(source), users_(source) {
    for (const auto& unit : units.all()) {
      if ((unit.is_shared() || is_plugin(unit)) && !apart.contains(&unit)) all_.push_back(&unit);
    }
    for (const Unit* unit : all_) {
      auto alike = builds_like(*unit);
      if (may_be_inner(*unit, alike)) candidates_.push_back({unit, file_name(*unit), std::move(alike)});
    }
    for (auto& candidate : candidates_) candidate.starts = starts_of(candidate);
  }

  std::map<const Unit*, InnerLibrary> find() {
    for (const auto& candidate : candidates_) {
      for (const Unit* user : all_) {
        if (user != candidate.unit && lie_together(*candidate.unit, *user) && !is_plugin(*user))
          consider(candidate, *user);
      }
    }
    // From those that nobody uses: of libraries that name each other in a circle, nobody knows which is the one.
    for (const Unit* unit : all_) {
      if (!is_used(unit)) follow(unit, unit, true);
    }
    return std::move(found_);
  }

 private:
  struct Candidate {
    const Unit* unit;
    std::string name;
    std::vector<const Unit*> alike;        ///< others beside it that offer the same; of plugins all others
    std::vector<std::string> starts = {};  ///< that its name has in common with theirs, the longest first
  };
  struct Use {
    const Unit* user;
    const Unit* used;
    bool imported;
  };

  /// What brings an import library is linked, and so is what headers are about.
  bool may_be_inner(const Unit& unit, const std::vector<const Unit*>& alike) {
    if (is_plugin(unit)) return true;
    if (unit.first().facts.kind.value != Kind::shared_library || users_.are_given_by(unit)) return false;
    return (is_dll(unit) && unit.binaries.size() == 1) || !alike.empty();
  }

  std::vector<const Unit*> builds_like(const Unit& unit) const {
    std::vector<const Unit*> found;
    for (const Unit* other : all_) {
      if (other == &unit || !lie_together(unit, *other)) continue;
      const bool plugins = is_plugin(unit) && is_plugin(*other);
      if (plugins || offer_the_same(unit.offers, other->offers)) found.push_back(other);
    }
    return found;
  }

  /// Code that chooses among several builds puts their names together: `libtern-cpu-` and what fits the machine.
  static std::vector<std::string> starts_of(const Candidate& candidate) {
    std::string start = candidate.alike.empty() ? std::string() : candidate.name;
    for (const Unit* other : candidate.alike) {
      const std::string name = file_name(*other);
      const auto differ = std::mismatch(start.begin(), start.end(), name.begin(), name.end());
      start.erase(differ.first, start.end());
    }
    constexpr size_t least = 5;
    std::vector<std::string> starts;
    for (size_t end = start.find_last_of("-_"); end != std::string::npos && end + 1 >= least;
         end = start.find_last_of("-_", end - 1))
      starts.push_back(start.substr(0, end + 1));
    return starts;
  }

  void consider(const Candidate& candidate, const Unit& user) {
    const Unit& unit = *candidate.unit;
    // Without headers nobody says what is linked: what is imported may be.
    const bool imported = is_imported_by(user, unit.first().facts.soname.value.value_or(candidate.name));
    const bool known = !maker_of_run_time_dll(candidate.name).empty();
    if (imported && ((source_.headers.empty() && !known) || !is_dll(unit))) return;
    const fs::path file = source_.root / user.first().file;
    const bool alike = std::find(candidate.alike.begin(), candidate.alike.end(), &user) != candidate.alike.end();
    const auto names = [&](const std::string& text) { return is_named_in(file, text); };
    if (imported || names(candidate.name) ||
        (!alike && std::any_of(candidate.starts.begin(), candidate.starts.end(), names)))
      uses_.push_back({&user, &unit, imported});
  }

  bool is_used(const Unit* unit) const {
    return std::any_of(uses_.begin(), uses_.end(), [&](const Use& use) { return use.used == unit; });
  }

  // NOLINTNEXTLINE(misc-no-recursion): each library is entered once
  void follow(const Unit* root, const Unit* from, bool imported) {
    for (const auto& use : uses_) {
      if (use.user != from || found_.contains(use.used)) continue;
      found_[use.used] = {root, imported && use.imported};
      follow(root, use.used, imported && use.imported);
    }
  }

  const Source& source_;
  UsersNames users_;
  std::vector<const Unit*> all_;
  std::vector<Candidate> candidates_;
  std::vector<Use> uses_;
  std::map<const Unit*, InnerLibrary> found_;
};

}  // namespace

std::map<const Unit*, InnerLibrary> inner_libraries(const Source& source, const Units& units,
                                                    const std::map<const Unit*, std::string>& apart) {
  return InnerLibraries(source, units, apart).find();
}

void place_inner_libraries(const std::map<const Unit*, InnerLibrary>& inner, std::vector<Draft>& drafts) {
  for (const auto& [unit, library] : inner) {
    for (auto& draft : drafts) {
      if (std::find(draft.units.begin(), draft.units.end(), library.user) == draft.units.end()) continue;
      auto& files = library.imported ? draft.variant.runtime : draft.variant.plugins;
      files.push_back(unit->first().file);
      if (library.imported) add_needs(unit->first().facts, draft.variant);
    }
  }
  for (auto& draft : drafts) std::sort(draft.variant.plugins.begin(), draft.variant.plugins.end());
}

}  // namespace fibula
