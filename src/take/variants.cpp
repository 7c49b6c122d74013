/// Binaries that belong together, by what they are for: architecture, linkage, configuration, run-time.
#include "base/text.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"
#include "take/data_files.hpp"
#include "take/draft_facts.hpp"
#include "take/draft_joins.hpp"
#include "take/inner_libraries.hpp"
#include "take/opened_files.hpp"
#include "take/pairing.hpp"
#include "take/program_plugins.hpp"
#include "take/unit_relations.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Which folder has a library of which name, for which machine.
class Places {
 public:
  explicit Places(const Units& units) {
    for (const auto& unit : units.all()) known_.insert(key(unit, folder_of(unit)));
  }
  /// Whether a draft's folders have a library of this one's name themselves: then that one is meant there.
  bool have_their_own(const Draft& draft, const Unit& unit) const {
    return std::any_of(draft.units.begin(), draft.units.end(), [&](const Unit* other) {
      return folder_of(*other) != folder_of(unit) && known_.contains(key(unit, folder_of(*other)));
    });
  }

 private:
  static std::string key(const Unit& unit, const std::string& folder) {
    return fmt::format("{}|{}|{}|{}", to_string(variant_target(unit.first().facts)),
                       to_string(variant_linkage(unit.first().facts)), folder, unit.stem());
  }
  std::set<std::string> known_;
};

/// How near a library lies to those of a draft.
size_t nearness(const Draft& draft, const Unit& unit) {
  size_t most = 0;
  for (const auto* other : draft.units) {
    const bool same = fs::path(other->first().file).parent_path() == fs::path(unit.first().file).parent_path();
    most = std::max(most, 2 * folders_in_common(other->first().file, unit.first().file) + (same ? 1 : 0));
  }
  return most;
}

/// The draft that a library goes into: of those that it can be in the one that lies nearest, else a new one.
Draft& draft_for(std::vector<Draft>& drafts, const Unit& unit, const Places& places) {
  const Target target = variant_target(unit.first().facts);
  const Linkage linkage = variant_linkage(unit.first().facts);
  Draft* found = nullptr;
  for (auto& draft : drafts) {
    if (draft.variant.target != target || draft.variant.linkage != linkage ||
        draft.hint.configuration != unit.hint.configuration)
      continue;
    const bool agree = goes_with(draft, unit) || std::all_of(unit.rows.begin(), unit.rows.end(),
                                                             [&](const auto& rows) { return agrees(draft, rows); });
    if (!agree || is_alternative(draft, unit) || places.have_their_own(draft, unit)) continue;
    if (found == nullptr || nearness(draft, unit) > nearness(*found, unit)) found = &draft;
  }
  if (found != nullptr) return *found;
  Draft fresh;
  fresh.variant.target = target;
  fresh.variant.linkage = linkage;
  fresh.hint = unit.hint;
  return drafts.emplace_back(std::move(fresh));
}

/// The names of one shared library: the development link, the soname, the file itself. Which of them exist is what
/// counts.
void add_shared(const Source& source, const Binary& binary, Variant& variant) {
  const fs::path path = source.root / binary.file;
  std::error_code ignored;
  const fs::path real = fs::canonical(path, ignored);
  const fs::path soname = fs::path(binary.facts.soname.value.value_or(path.filename().string())).filename();
  const fs::path beside = fs::exists(path.parent_path() / soname, ignored) ? path.parent_path() : real.parent_path();
  const fs::path runtime = fs::exists(beside / soname, ignored) ? beside / soname : path;
  const auto runtime_name = shown_from(source.root, runtime);
  if (std::find(variant.runtime.begin(), variant.runtime.end(), runtime_name) == variant.runtime.end())
    variant.runtime.push_back(runtime_name);
  // Links that became copies on their way are names of one library all the same.
  const auto same_library = [&](const std::string& other) {
    std::error_code gone;
    return fs::canonical(source.root / other, gone) == real || has_same_content(source.root / other, real);
  };
  const auto known = std::find_if(variant.link.begin(), variant.link.end(), same_library);
  if (known == variant.link.end()) {
    variant.link.push_back(binary.file);
  } else if (binary.file.ends_with(".so")) {
    *known = binary.file;
  }
}

/// A DLL is for the loader; linkers take its import library where there is one.
void add_dll(const Draft& draft, const Binary& binary, Variant& variant) {
  const auto file_name = [](const std::string& file) { return text::lower(fs::path(file).filename().string()); };
  const auto name = file_name(binary.file);
  const auto wanted = text::lower(binary.facts.soname.value.value_or(name));
  const auto all = draft.binaries();
  // Another file has the name that this one should have: it is the same under both.
  const auto is_wanted = [&](const Binary* other) {
    return name != wanted && file_name(other->file) == wanted &&
           fs::path(other->file).parent_path() == fs::path(binary.file).parent_path();
  };
  if (std::any_of(all.begin(), all.end(), is_wanted)) return;
  variant.runtime.push_back(binary.file);
  const auto stands_for_it = [&](const Binary* other) {
    return other->facts.kind.value == Kind::import_library &&
           text::lower(other->facts.soname.value.value_or("")) == name;
  };
  if (std::none_of(all.begin(), all.end(), stands_for_it)) variant.link.push_back(binary.file);
}

void add_files(const Source& source, Draft& draft) {
  for (const Binary* binary : draft.binaries()) {
    const Facts& facts = binary->facts;
    const bool image = facts.kind.value == Kind::shared_library && facts.format.value != Format::stub;
    add_needs(facts, draft.variant);
    if (image && draft.variant.target.format == Format::pe) {
      add_dll(draft, *binary, draft.variant);
    } else if (image) {
      add_shared(source, *binary, draft.variant);
    } else if (std::find(draft.variant.link.begin(), draft.variant.link.end(), binary->file) ==
               draft.variant.link.end()) {
      // A universal file with two levels of one machine is named once.
      draft.variant.link.push_back(binary->file);
    }
  }
}

/// A universal file counts once for each of its architectures.
std::vector<Binary> without_slices(const std::vector<Binary>& binaries) {
  std::vector<Binary> single;
  for (const auto& binary : binaries) {
    if (binary.facts.slices.empty()) single.push_back(binary);
    for (const auto& slice : binary.facts.slices) {
      single.push_back({binary.file, slice});
      if (!slice.kind) single.back().facts.kind = binary.facts.kind;
    }
  }
  return single;
}

}  // namespace

std::vector<Variant> variants_in(Source& source) {
  const auto binaries = without_slices(source.binaries);
  const Units units(source, binaries);
  std::vector<Draft> drafts;
  const auto plugins = source.from_prefix ? std::map<const Unit*, std::string>() : program_plugins(source, units);
  const auto inner =
      source.from_prefix ? std::map<const Unit*, InnerLibrary>() : inner_libraries(source, units, plugins);
  std::vector<std::string> unnamed;
  const Places places(units);
  for (const auto& unit : units.all()) {
    if (inner.contains(&unit) || plugins.contains(&unit)) continue;
    if (unit.first().facts.kind.value == Kind::plugin) {
      const std::string& file = unit.first().file;
      if (unnamed.empty() || unnamed.back() != file) unnamed.push_back(file);  // once for each of its slices
      continue;
    }
    add_unit(unit, draft_for(drafts, unit, places));
  }
  leave_out_program_plugins(plugins, source);
  if (!unnamed.empty())
    source.remarks.push_back(fmt::format("{} {}, which no link takes, and no library here names {}", and_more(unnamed),
                                         unnamed.size() == 1 ? "is a plugin" : "are plugins",
                                         unnamed.size() == 1 ? "it" : "them"));
  if (!source.from_prefix) {
    join_linked(drafts);
    complete_alternatives(drafts, source);
    join_parts(source, drafts);
    place_inner_libraries(inner, drafts);
    find_opened(source, drafts);
    find_data(source);
  }
  make_choices(source, drafts);
  give_ids(drafts);
  std::vector<Variant> variants;
  for (auto& draft : drafts) {
    add_files(source, draft);
    for (const auto* helper : units.helpers()) {
      if (variant_target(helper->facts) == draft.variant.target) draft.variant.link.push_back(helper->file);
    }
    variants.push_back(std::move(draft.variant));
  }
  return variants;
}

}  // namespace fibula
