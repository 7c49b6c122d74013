#include "take/inner_dlls.hpp"

#include "facts/system_files.hpp"
#include "os/files.hpp"
#include "take/users_names.hpp"

#include <algorithm>

namespace fibula {
namespace {

bool is_dll(const Unit& unit) {
  return unit.is_shared() && variant_target(unit.first().facts).format == Format::pe;
}

/// Only a DLL that brings an import library is linked, or one that headers are about.
bool may_be_inner(const Unit& unit, UsersNames& users) {
  return is_dll(unit) && unit.binaries.size() == 1 && unit.first().facts.kind.value == Kind::shared_library &&
         !users.are_given_by(unit);
}

bool lie_together(const Unit& one, const Unit& other) {
  return fs::path(one.first().file).parent_path() == fs::path(other.first().file).parent_path() &&
         variant_target(one.first().facts) == variant_target(other.first().facts);
}

class InnerDlls {
 public:
  InnerDlls(const Source& source, const Units& units) : source_(source), users_(source) {
    for (const auto& unit : units.all()) {
      if (may_be_inner(unit, users_)) candidates_.push_back(&unit);
      if (is_dll(unit)) dlls_.push_back(&unit);
    }
  }

  std::map<const Unit*, InnerDll> find() {
    for (const Unit* unit : candidates_) {
      for (const Unit* user : dlls_) {
        if (user == unit || !lie_together(*unit, *user)) continue;
        const std::string name = fs::path(unit->first().file).filename().string();
        const bool imported = is_imported_by(*user, name);
        if (imported || is_named_in(source_.root / user->first().file, name)) uses_.push_back({user, unit, imported});
      }
    }
    // From those that nobody uses: of DLLs that name each other in a circle, nobody knows which is the library.
    for (const Unit* unit : dlls_) {
      if (!is_used(unit)) follow(unit, unit, true);
    }
    return std::move(found_);
  }

 private:
  struct Use {
    const Unit* user;
    const Unit* used;
    bool imported;
  };

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
  std::vector<const Unit*> candidates_, dlls_;
  std::vector<Use> uses_;
  std::map<const Unit*, InnerDll> found_;
};

}  // namespace

std::map<const Unit*, InnerDll> inner_dlls(const Source& source, const Units& units) {
  return InnerDlls(source, units).find();
}

void place_inner_dlls(const std::map<const Unit*, InnerDll>& inner, std::vector<Draft>& drafts) {
  for (const auto& [unit, dll] : inner) {
    for (auto& draft : drafts) {
      if (std::find(draft.units.begin(), draft.units.end(), dll.user) == draft.units.end()) continue;
      auto& files = dll.imported ? draft.variant.runtime : draft.variant.plugins;
      files.push_back(unit->first().file);
      if (dll.imported) add_needs(unit->first().facts, draft.variant);
    }
  }
}

}  // namespace fibula
