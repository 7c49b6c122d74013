#include "link/derivation.hpp"

#include "base/text.hpp"
#include "facts/library_name.hpp"
#include "facts/system_files.hpp"
#include "index/defined_names.hpp"
#include "link/providers.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// Why one library is taken and not another; smaller is stronger.
enum class Ground { card, language, shared_form, noted, loaded, origin, only };

/// The forms of one library in one folder.
struct NameFamily {
  std::string stem;
  fs::path shared = {};  ///< what `-l` finds, or a versioned run-time file
  fs::path archive = {};
  std::string soname = {};
  std::set<std::string> covers = {};  ///< missing names that it defines
  std::set<std::string> in_shared = {}, in_archive = {};
};

/// Tools that slip between a program and its C library define its names too, and are never what is meant; code that was
/// compiled for a sanitizer gets it from the compiler's own flag.
bool is_interposer(std::string_view stem) {
  constexpr std::string_view stems[] = {"asan",     "hwasan",    "lsan",           "tsan",    "ubsan",
                                        "memusage", "pcprofile", "c_malloc_debug", "SegFault"};
  return stem.starts_with("clang_rt") || std::find(std::begin(stems), std::end(stems), stem) != std::end(stems);
}

/// `dependency_libs='-L/usr/lib -ltern /usr/lib/libgull.la'` of a text `libx.la`, which libraries that were built with
/// GNU Libtool have beside them (its manual, "Libtool library and object file formats").
std::set<std::string> libraries_noted_beside(const fs::path& archive) {
  constexpr uint64_t longest = 64U << 10U;
  constexpr std::string_view key = "\ndependency_libs='";
  std::set<std::string> names;
  const auto text = read_text(archive.parent_path() / (archive.stem().string() + ".la"), longest);
  const size_t at = text ? text->find(key) : std::string::npos;
  if (at == std::string::npos) return names;
  const auto rest = std::string_view(*text).substr(at + key.size());
  for (const auto word : text::words(rest.substr(0, rest.find('\'')))) {
    if (word.starts_with("-l")) names.emplace(word.substr(2));
    if (word.ends_with(".la")) names.insert(library_stem(fs::path(word)));
  }
  return names;
}

/// Run-times of languages that come with a compiler, what the C library keeps apart, and what is part of Windows.
bool belongs_to_language(const NameFamily& family, const Toolchain& toolchain) {
  if (family_of(toolchain.target.format) == Format::pe && is_windows_dll(family.stem + ".dll")) return true;
  if (is_companion_of_c_library(family.stem)) return true;
  constexpr std::string_view own[] = {"stdc++",   "gcc_s", "gcc",  "gcc_eh", "gfortran",
                                      "quadmath", "gomp",  "objc", "itm"};
  const bool named = std::find(std::begin(own), std::end(own), family.stem) != std::end(own);
  if (!named) return false;
  const fs::path& path = family.shared.empty() ? family.archive : family.shared;
  const auto& folders = toolchain.library_directories;
  return std::find(folders.begin(), folders.end(), path.parent_path()) != folders.end();
}

/// Names that begin alike are taken for parts of one whole, where nothing better tells.
bool share_origin(const std::string& one, const std::string& other) {
  constexpr size_t enough = 3;
  const size_t shorter = std::min(one.size(), other.size());
  return shorter >= enough && one.compare(0, shorter, other, 0, shorter) == 0;
}

class SupplySearch {
 public:
  SupplySearch(FileStore& files, const SupplyQuestion& question) : files_(files), q_(question) {}

  Supplies run() {
    for (const auto& missing : q_.rehearsal.unresolved) note(missing);
    drop_aliases();
    for (const auto& missing : q_.rehearsal.unresolved) {
      if (!supplied_.contains(missing.symbol)) choose(missing);
    }
    return std::move(found_);
  }

 private:
  /// Notes which families define a missing name.
  void note(const Unresolved& missing) {
    for (const auto& path : q_.index.files_with(missing.symbol)) {
      const std::string stem = library_stem(path);
      if (is_interposer(stem) || is_present(path) || (q_.toolchain.static_link && !is_archive_name(path))) continue;
      if (!is_usable(path, missing.symbol)) continue;
      NameFamily& family = families_[path.parent_path() / stem];
      family.stem = stem;
      family.covers.insert(missing.symbol);
      (is_archive_name(path) ? family.in_archive : family.in_shared).insert(missing.symbol);
      if (is_archive_name(path)) {
        family.archive = path;
      } else if (family.shared.empty() || path.extension() == ".so") {
        family.shared = path;
        family.soname = soname_of(path);
      }
    }
  }

  static bool is_archive_name(const fs::path& path) { return path.extension() == ".a" || path.extension() == ".lib"; }

  bool is_present(const fs::path& path) const {
    const auto is_form = [&](const fs::path& other) {
      return other == path || (other.parent_path() == path.parent_path() && library_stem(other) == library_stem(path));
    };
    return std::any_of(q_.present.begin(), q_.present.end(), is_form);
  }

  /// A damaged file in a system's folder supplies nothing; it is no reason to stop.
  bool is_usable(const fs::path& path, std::string_view symbol) {
    auto file = files_.open(path);
    if (!file) return false;
    if ((*file)->is_shared()) return same_family((*file)->image().target, q_.toolchain.target);
    if (const Archive* archive = (*file)->archive(); archive != nullptr && !archive->members.empty()) {
      const auto entry = std::find_if(archive->index.begin(), archive->index.end(),
                                      [&](const ArIndexEntry& e) { return e.symbol == symbol; });
      if (entry == archive->index.end()) return false;
      auto object = (*file)->object(entry->member);
      return object && same_family((*object)->image.target, q_.toolchain.target);
    }
    return (*file)->script() != nullptr;
  }

  std::string soname_of(const fs::path& path) {
    auto file = files_.open(path);
    if (!file) return {};
    if (const Script* script = (*file)->script()) {
      const auto named = script_files(*script, path.parent_path());
      return named.empty() || named.front() == path ? std::string() : soname_of(named.front());
    }
    if (!(*file)->is_shared()) return {};
    const auto& soname = (*file)->image().soname;
    return soname ? std::string(*soname) : path.filename().string();
  }

  /// A linker script that names another family's file says nothing of its own, and a run-time file gives way to what
  /// the linker is meant to find.
  void drop_aliases() {
    std::erase_if(families_, [&](const auto& entry) {
      return std::any_of(families_.begin(), families_.end(), [&](const auto& other) {
        return other.first != entry.first && stands_for(entry.second, other.second);
      });
    });
  }

  bool stands_for(const NameFamily& family, const NameFamily& other) {
    if (!covers(other, family)) return false;
    auto file = files_.open(family.shared.empty() ? family.archive : family.shared);
    const Script* script = file ? (*file)->script() : nullptr;
    if (script == nullptr) return false;
    const auto named = script_files(*script, (*file)->path().parent_path());
    return std::any_of(named.begin(), named.end(), [&](const fs::path& path) {
      std::error_code ignored;
      return (!other.shared.empty() && fs::equivalent(path, other.shared, ignored)) ||
             (!other.archive.empty() && fs::equivalent(path, other.archive, ignored));
    });
  }

  void choose(const Unresolved& missing) {
    const bool for_program = missing.file.empty() || q_.own.contains(missing.file);
    std::vector<std::pair<Ground, const NameFamily*>> able;
    for (const auto& [key, family] : families_) {
      if (!family.covers.contains(missing.symbol)) continue;
      const Ground ground = ground_for(missing, family);
      if (for_program && ground != Ground::language && ground != Ground::card) continue;
      able.emplace_back(ground, &family);
    }
    if (able.empty()) return;
    const Ground best = std::min_element(able.begin(), able.end())->first;
    std::erase_if(able, [&](const auto& one) { return one.first != best || gives_way(*one.second, best, able); });
    if (able.size() > 1 && best > Ground::noted) return ask(missing, able);
    take(missing, *able.front().second, best);
  }

  /// One that defines less of what is missing gives way, and so does the same library found a second time.
  static bool gives_way(const NameFamily& family, Ground best,
                        const std::vector<std::pair<Ground, const NameFamily*>>& able) {
    return std::any_of(able.begin(), able.end(), [&](const auto& one) {
      const NameFamily& other = *one.second;
      if (one.first != best || &other == &family) return false;
      if (!family.soname.empty() && family.soname == other.soname) return &other < &family;
      if (is_default(other) && !is_default(family) && covers(other, family)) return true;
      return other.covers.size() > family.covers.size() && covers(other, family);
    });
  }

  static bool covers(const NameFamily& one, const NameFamily& other) {
    return std::includes(one.covers.begin(), one.covers.end(), other.covers.begin(), other.covers.end());
  }

  /// The system's own choice among equals: what `-l` finds as a shared library.
  static bool is_default(const NameFamily& family) { return family.shared.extension() == ".so"; }

  Ground ground_for(const Unresolved& missing, const NameFamily& family) {
    const NeedyLibrary& needy = needy_at(missing.file);
    const auto& inputs = needy.system_inputs;
    if (std::find(inputs.begin(), inputs.end(), family.stem) != inputs.end()) return Ground::card;
    if (belongs_to_language(family, q_.toolchain)) return Ground::language;
    if (needy.run_time_needs.contains(family.soname)) return Ground::shared_form;
    if (needy.noted.contains(family.stem)) return Ground::noted;
    if (q_.rehearsal.loaded.contains(family.soname)) return Ground::loaded;
    if (!missing.file.empty() && share_origin(library_stem(missing.file), family.stem)) return Ground::origin;
    return Ground::only;
  }

  /// What is known of the library that lacks names; its shared form lies beside it as a rule.
  const NeedyLibrary& needy_at(const fs::path& path) {
    auto [known, fresh] = q_.needy.try_emplace(path);
    if (path.empty() || !looked_beside_.insert(path).second) return known->second;
    const std::string name = path.stem().string();
    for (const auto& beside : files_directly_in(path.parent_path())) {
      const std::string text = beside.string();
      if (!text.starts_with(name + ".so")) continue;
      auto file = files_.open(path.parent_path() / beside);
      if (!file || !(*file)->is_shared()) continue;
      for (const auto& need : (*file)->image().needs) known->second.run_time_needs.insert(need.name);
      break;
    }
    known->second.noted = libraries_noted_beside(path);
    return known->second;
  }

  void take(const Unresolved& missing, const NameFamily& family, Ground ground) {
    // What a library keeps to itself in its shared form, another part of it can still need: then its archive serves.
    const bool by_archive =
        q_.toolchain.static_link || !std::includes(family.in_shared.begin(), family.in_shared.end(),
                                                   family.in_archive.begin(), family.in_archive.end());
    const fs::path& path = by_archive ? family.archive : family.shared;
    supplied_.insert(family.covers.begin(), family.covers.end());
    const auto searched = find_library(q_.toolchain.library_directories, family.stem, q_.toolchain.static_link);
    found_.supplies.push_back(
        {path, {searched && *searched == path ? "-l" + family.stem : path.string()}, why(missing, family, ground)});
  }

  static std::string why(const Unresolved& missing, const NameFamily& family, Ground ground) {
    std::string text = fmt::format("defines {}, which {} needs", missing.symbol, missing.needed_by);
    const std::string user = missing.file.filename().string();
    switch (ground) {
      case Ground::card: return text + ", and its card names it";
      case Ground::shared_form: return text + fmt::format("; the shared form of {} asks for {}", user, family.soname);
      case Ground::noted: return text + fmt::format("; what its build left beside {} names {}", user, family.stem);
      case Ground::loaded: return text + fmt::format("; {} is loaded in any case", family.soname);
      case Ground::origin: return text + fmt::format("; of those that do, it belongs to {}", user);
      case Ground::language:
      case Ground::only: return text;
    }
    return text;
  }

  void ask(const Unresolved& missing, const std::vector<std::pair<Ground, const NameFamily*>>& able) {
    std::vector<fs::path> choices;
    for (const auto& [ground, family] : able)
      choices.push_back(family->shared.empty() ? family->archive : family->shared);
    for (auto& known : found_.ambiguities) {
      if (known.choices == choices) return known.missing.push_back(missing);
    }
    found_.ambiguities.push_back({{missing}, std::move(choices), needy_at(missing.file).card});
  }

  FileStore& files_;
  const SupplyQuestion& q_;
  std::map<fs::path, NameFamily> families_;  ///< by folder and stem
  std::set<std::string> supplied_;
  std::set<fs::path> looked_beside_;
  Supplies found_;
};

}  // namespace

Supplies find_supplies(FileStore& files, const SupplyQuestion& question) {
  return SupplySearch(files, question).run();
}

}  // namespace fibula
