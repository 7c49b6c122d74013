/// Binaries that belong together, by what they are for: architecture, linkage, configuration, run-time.
#include "base/text.hpp"
#include "base/version.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"
#include "take/drafts.hpp"
#include "take/inner_libraries.hpp"
#include "take/offered_names.hpp"
#include "take/opened_files.hpp"
#include "take/pairing.hpp"
#include "take/program_plugins.hpp"
#include "take/users_names.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Facts that a card keeps of its variants, because a rule compares them.
constexpr std::string_view kept[] = {
    "kind",       "cpu-floor",  "float-abi",  "os-floor",    "subsystem", "c-runtime", "libc-floor", "cxx-runtime",
    "cxx-floor",  "string-abi", "interface",  "own-strings", "stl-debug", "language",  "link-time",  "toolset",
    "exceptions", "threads",    "sanitizers", "pic",         "entry",     "soname",    "dll-name",   "install-name"};

/// What of a fact decides; empty where the file does not tell it.
std::string fact_of(const std::vector<FactRow>& rows, std::string_view id) {
  const auto found = std::find_if(rows.begin(), rows.end(), [&](const FactRow& row) { return row.id == id; });
  return found == rows.end() ? std::string() : decisive_value(found->value);
}

bool agrees(const Draft& draft, const std::vector<FactRow>& rows) {
  return std::none_of(std::begin(decisive_facts), std::end(decisive_facts), [&](std::string_view id) {
    const std::string theirs = fact_of(rows, id);
    const std::string ours = id == "configuration" ? draft.variant.configuration : decisive_value(draft.variant, id);
    return !is_open_value(ours) && !is_open_value(theirs) && ours != theirs;
  });
}

/// `tern` and `tern_gpu`, not `tern_c` and `delegate`.
bool have_a_word_in_common(const std::string& one, const std::string& other) {
  const auto words_of = [](std::string name) {
    for (char& c : name) {
      if (!text::is_letter(c)) c = ' ';
    }
    return name;
  };
  const std::string first = words_of(one), second = words_of(other);
  const auto words = text::words(first), others = text::words(second);
  return std::any_of(words.begin(), words.end(), [&](std::string_view word) {
    return std::find(others.begin(), others.end(), word) != others.end();
  });
}

/// Whether one of two shared libraries was linked against the other one.
bool are_linked(const Unit& one, const Unit& other) {
  const auto uses = [](const Unit& user, const Unit& used) {
    const std::string name = fs::path(used.first().file).filename().string();
    return is_imported_by(user, used.first().facts.soname.value.value_or(name));
  };
  return uses(one, other) || uses(other, one);
}

/// Whether a library of a draft in the same folder says that the two belong together: whatever each was built with,
/// programs start with both.
bool goes_with(const Draft& draft, const Unit& unit) {
  const auto folder = [](const Unit& some) { return fs::path(some.first().file).parent_path(); };
  return unit.is_shared() && std::any_of(draft.units.begin(), draft.units.end(), [&](const Unit* other) {
           return folder(*other) == folder(unit) && are_linked(*other, unit);
         });
}

std::string folder_of(const Unit& unit) {
  return fs::path(unit.first().file).parent_path().generic_string();
}

/// The same library twice, or two that offer the same to links: no program can have both.
bool are_alternatives(const Unit& unit, const Unit& other) {
  // What one needs of the other is no other build of it, however many names they share.
  if (are_linked(unit, other)) return false;
  if (folder_of(unit) != folder_of(other) && other.stem() == unit.stem()) return true;
  // A loader takes the first of two definitions: only what stands for the whole of the other one does so.
  const bool related = !unit.is_shared() || have_a_word_in_common(other.stem(), unit.stem());
  return related ? offer_the_same(other.offers, unit.offers) : are_the_same(other.offers, unit.offers);
}

bool is_alternative(const Draft& draft, const Unit& unit) {
  return std::any_of(draft.units.begin(), draft.units.end(),
                     [&](const Unit* other) { return are_alternatives(unit, *other); });
}

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

Learnt told_by(const FactRow& row, const std::string& file) {
  return {row.certainty, file, row.from};
}

/// Whether a later file's value stands for the whole variant: a floor as the highest, position dependence as the worst.
struct Outdoes {
  std::string_view id;

  bool operator()(const std::string& fresh, const std::string& known) const {
    if (id.ends_with("-floor")) return compare_versions(fresh, known) > 0;
    if (id == "string-abi" || id == "own-strings") return is_open_value(known) && known != "both";
    return (id == "language" || id == "interface") && fresh == "C++";
  }
  bool operator()(const NamedVersion& fresh, const NamedVersion& known) const {
    return id.ends_with("-floor") && fresh.name == known.name && compare_versions(fresh.version, known.version) > 0;
  }
  bool operator()(const PicReport& fresh, const PicReport& known) const { return fresh.level > known.level; }
  template <class One, class Other>
  bool operator()(const One&, const Other&) const {
    return false;
  }
};

bool outdoes(std::string_view id, const FactValue& fresh, const FactValue& known) {
  return std::visit(Outdoes{id}, fresh, known);
}

void learn(const std::vector<FactRow>& rows, const Binary& binary, Variant& variant) {
  const std::string& file = binary.file;
  // Programs ask for a DLL as their import library says, whatever it calls itself.
  const bool imports = binary.facts.kind.value == Kind::import_library;
  for (const auto& row : rows) {
    if (row.id == "arch" || row.id == "kind")
      variant.learnt.try_emplace(row.id == "kind" ? "linkage" : row.id, told_by(row, file));
    if (std::find(std::begin(kept), std::end(kept), row.id) == std::end(kept)) continue;
    const auto known = variant.facts.find(row.id);
    if (known != variant.facts.end() && !(imports && row.id == "dll-name") &&
        !outdoes(row.id, row.value, known->second))
      continue;
    variant.facts[row.id] = row.value;
    variant.learnt[row.id] = told_by(row, file);
  }
}

void learn_configuration(const std::vector<FactRow>& rows, const Binary& binary, Draft& draft) {
  Variant& variant = draft.variant;
  if (variant.configuration != "unknown") return;
  for (const auto& row : rows) {
    if (row.id != "configuration") continue;
    variant.configuration = std::get<std::string>(row.value);
    variant.learnt["configuration"] = told_by(row, binary.file);
    return;
  }
  if (draft.hint.configuration == "unknown") return;
  variant.configuration = draft.hint.configuration;
  variant.learnt["configuration"] = draft.hint.learnt;
}

void add_unit(const Unit& unit, Draft& draft) {
  draft.units.push_back(&unit);
  for (size_t i = 0; i < unit.binaries.size(); ++i) {
    learn(unit.rows[i], *unit.binaries[i], draft.variant);
    learn_configuration(unit.rows[i], *unit.binaries[i], draft);
  }
}

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

/// Drafts that a later file ties together are one, whatever each was built with.
void join_linked(std::vector<Draft>& drafts) {
  const auto tied = [](const Draft& one, const Draft& other) {
    return one.variant.target == other.variant.target && one.variant.linkage == other.variant.linkage &&
           one.hint.configuration == other.hint.configuration &&
           std::any_of(other.units.begin(), other.units.end(),
                       [&](const Unit* unit) { return goes_with(one, *unit); }) &&
           std::none_of(other.units.begin(), other.units.end(),
                        [&](const Unit* unit) { return is_alternative(one, *unit); });
  };
  for (size_t i = 0; i < drafts.size(); ++i) {
    for (size_t j = i + 1; j < drafts.size();) {
      if (!tied(drafts[i], drafts[j])) {
        ++j;
        continue;
      }
      for (const Unit* unit : drafts[j].units) add_unit(*unit, drafts[i]);
      drafts.erase(drafts.begin() + static_cast<std::ptrdiff_t>(j));
      j = i + 1;
    }
  }
}

/// A draft that only replaces some libraries of another one has the rest of that one too. Where the rest was linked
/// against what is replaced, that cannot be: it is left out.
void complete_alternatives(std::vector<Draft>& drafts, Source& source) {
  for (size_t i = 0; i < drafts.size(); ++i) {
    const auto is_whole = [&](const Draft& whole) {
      const Draft& part = drafts[i];
      return &whole != &part && whole.variant.target == part.variant.target && whole.units.size() > part.units.size() &&
             whole.variant.linkage == part.variant.linkage && whole.hint.configuration == part.hint.configuration &&
             std::all_of(part.units.begin(), part.units.end(), [&](const Unit* unit) {
               return std::any_of(whole.units.begin(), whole.units.end(), [&](const Unit* other) {
                 return folder_of(*unit) == folder_of(*other) && are_alternatives(*unit, *other);
               });
             });
    };
    const auto whole = std::find_if(drafts.begin(), drafts.end(), is_whole);
    if (whole == drafts.end()) continue;
    std::vector<const Unit*> rest, replaced;
    for (const Unit* unit : whole->units) (is_alternative(drafts[i], *unit) ? replaced : rest).push_back(unit);
    const auto needed = std::find_if(replaced.begin(), replaced.end(), [&](const Unit* unit) {
      return std::any_of(rest.begin(), rest.end(), [&](const Unit* user) { return are_linked(*user, *unit); });
    });
    if (needed == replaced.end()) {
      for (const Unit* unit : rest) add_unit(*unit, drafts[i]);
      continue;
    }
    source.remarks.push_back(fmt::format("{} left out of links: it offers what {} does, which others here need",
                                         drafts[i].units.front()->first().file, (*needed)->first().file));
    drafts.erase(drafts.begin() + static_cast<std::ptrdiff_t>(i--));
  }
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
