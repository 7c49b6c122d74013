#include "link/rehearsal.hpp"

#include "base/text.hpp"
#include "link/linker_symbols.hpp"
#include "link/references.hpp"
#include "link/substitutes.hpp"
#include "link/symbol_table.hpp"
#include "os/files.hpp"

#include <algorithm>

namespace fibula {
namespace {

using StepKind = LinkStep::Kind;

/// One link on its way.
class Stage {
 public:
  Stage(FileStore& files, const LinkLine& line) : files_(files), line_(line), table_(files.names()) {}

  Result<bool> visit(const std::vector<LinkStep>& steps);
  Result<bool> load_needs();
  Result<Rehearsal> conclude(const RehearsalOptions& options);
  SymbolTable& table() { return table_; }

 private:
  /// What --push-state keeps (GNU ld manual, "Options").
  struct LineState {
    bool as_needed = false, whole_archive = false;
  };
  struct Shared {
    LinkFile* file;
    std::string name;
  };
  using Archives = std::vector<LinkFile*>;

  Result<bool> visit_file(const fs::path& path, Archives* group);
  Result<bool> visit_script(const LinkFile& script, Archives* group);
  Result<bool> add_shared(LinkFile& file);
  Result<bool> search_archives(const Archives& archives, bool again);
  Result<bool> pull(LinkFile& archive);
  Result<bool> pull_all(LinkFile& archive);
  Result<bool> enter(LinkFile& archive, uint32_t member);
  Result<bool> wants(LinkFile& archive, size_t entry);
  Result<bool> close_group(Archives& group);
  Result<bool> add_default_libraries(Archives& group);
  Result<bool> add_re_exported(const Shared& umbrella);
  void add_object(const LinkObject& object);
  std::optional<fs::path> locate_need(const Shared& user, const std::string& name) const;
  bool knows_shared(const std::string& soname) const;
  bool is_bounded_by_section(std::string_view name) const;
  Result<std::optional<Unresolved>> judge(NameId symbol) const;

  FileStore& files_;
  const LinkLine& line_;
  SymbolTable table_;
  LinkDirectives directives_;
  std::vector<Shared> shared_;  ///< in the table's order of them
  std::map<LinkFile*, std::vector<bool>> entered_;
  std::vector<LineState> saved_states_;
  LineState state_;
  Rehearsal result_;
};

std::string soname_of(const LinkFile& file) {
  const auto& soname = file.image().soname;
  return soname ? std::string(*soname) : file.path().filename().string();
}

Result<bool> Stage::visit(const std::vector<LinkStep>& steps) {
  Archives group;
  // To some linkers all archives are one group, wherever they stand.
  const bool one_group = line_.linking == Linking::msvc || line_.linking == Linking::macho;
  bool in_group = one_group;
  for (const auto& step : steps) {
    switch (step.kind) {
      case StepKind::group_begin: in_group = true; break;
      case StepKind::group_end:
        if (auto closed = close_group(group); !closed) return closed;
        in_group = one_group;
        break;
      case StepKind::as_needed: state_.as_needed = true; break;
      case StepKind::no_as_needed: state_.as_needed = false; break;
      case StepKind::whole_archive: state_.whole_archive = true; break;
      case StepKind::no_whole_archive: state_.whole_archive = false; break;
      case StepKind::push_state: saved_states_.push_back(state_); break;
      case StepKind::pop_state:
        if (!saved_states_.empty()) state_ = saved_states_.back();
        if (!saved_states_.empty()) saved_states_.pop_back();
        break;
      case StepKind::library: result_.missing.push_back(step.name); break;
      case StepKind::default_library: directives_.add_default_library(step.name); break;
      case StepKind::no_default_library: directives_.no_default_libraries.insert(text::lower(step.name)); break;
      case StepKind::file:
        if (auto visited = visit_file(step.name, in_group ? &group : nullptr); !visited) return visited;
        break;
      case StepKind::user_inputs:
      case StepKind::only_static:
      case StepKind::any_linkage: break;
    }
  }
  if (auto added = add_default_libraries(group); !added) return added;
  return close_group(group);
}

/// What MSVC-style objects name is searched behind everything else, and can name more.
Result<bool> Stage::add_default_libraries(Archives& group) {
  if (line_.linking != Linking::msvc) return true;
  for (size_t i = 0; i < directives_.default_libraries.size(); ++i) {
    const std::string name = directives_.default_libraries[i];
    const auto& refused = directives_.no_default_libraries;
    if (refused.contains("") || refused.contains(text::lower(name))) continue;
    const auto path = find_library(line_.search, name, false, Linking::msvc);
    if (!path) {
      result_.missing.push_back(name);
    } else if (auto visited = visit_file(*path, &group); !visited) {
      return visited;
    }
    if (auto searched = search_archives(group, true); !searched) return searched;
  }
  return true;
}

Result<bool> Stage::visit_file(const fs::path& path, Archives* group) {
  auto file = files_.open(path, line_.target);
  if (!file) return pass(file);
  if ((*file)->script() != nullptr) return visit_script(**file, group);
  if ((*file)->is_shared()) return add_shared(**file);
  if ((*file)->archive() != nullptr) {
    if (state_.whole_archive) return pull_all(**file);
    if (group != nullptr) group->push_back(*file);
    return search_archives({*file}, false);
  }
  auto object = (*file)->object(0);
  if (!object) return pass(object);
  add_object(**object);
  result_.used.insert(path);
  return true;
}

/// A linker script's files, in place of itself.
Result<bool> Stage::visit_script(const LinkFile& script, Archives* group) {
  const bool outer = state_.as_needed;
  Archives own;
  Archives* archives = group != nullptr ? group : &own;
  for (const auto& input : script.script()->inputs) {
    state_.as_needed = outer || input.as_needed;
    std::optional<fs::path> path = fs::path(input.name);
    if (input.name.starts_with("-l")) {
      path = find_library(line_.search, input.name.substr(2), false, line_.linking);
    } else if (!path->is_absolute()) {
      path = find_library(line_.search, ":" + input.name, false);
    }
    if (!path) {
      result_.missing.push_back(input.name);
      continue;
    }
    if (auto visited = visit_file(*path, input.group ? archives : group); !visited) return visited;
  }
  state_.as_needed = outer;
  return group != nullptr ? Result<bool>(true) : close_group(own);
}

/// Link-time objects name no machine, or one that their compiler knows how to replace: what becomes of them is its own.
bool is_stranger(const LinkObject& object, const Target& lane) {
  const Target& target = object.image.target;
  if (lane.arch == Arch::unknown || object.image.link_time) return false;
  return !same_family(target, lane);
}

void Stage::add_object(const LinkObject& object) {
  if (is_stranger(object, line_.target)) return result_.strangers.push_back(&object);
  table_.add_object(object, line_.weak_serves_others);
  if (line_.linking == Linking::msvc) directives_.read(object.image);
}

bool Stage::knows_shared(const std::string& soname) const {
  return std::any_of(shared_.begin(), shared_.end(), [&](const Shared& known) { return known.name == soname; });
}

Result<bool> Stage::add_shared(LinkFile& file) {
  const std::string name = soname_of(file);
  if (knows_shared(name)) return true;
  if (state_.as_needed && !table_.satisfies(file)) return true;
  shared_.push_back({&file, name});
  result_.shared.push_back(name);
  result_.used.insert(file.path());
  // Images of Windows and macOS say themselves who has what they need.
  table_.add_shared(file, line_.linking == Linking::elf);
  return add_re_exported(Shared(shared_.back()));
}

/// What a library of macOS passes on counts as its own.
Result<bool> Stage::add_re_exported(const Shared& umbrella) {
  if (line_.linking != Linking::macho) return true;
  for (const auto& need : umbrella.file->image().needs) {
    if (need.kind != NeedKind::re_export || knows_shared(need.name)) continue;
    const auto path = locate_need(umbrella, need.name);
    if (!path) {
      result_.missing_needs.push_back(need.name);
      continue;
    }
    auto file = files_.open(*path, line_.target);
    if (!file) return pass(file);
    shared_.push_back({*file, need.name});
    table_.add_shared(**file, false);
    if (auto added = add_re_exported(Shared(shared_.back())); !added) return added;
  }
  return true;
}

/// The member is wanted when its name is undefined, or only tentatively defined and the member has the real definition.
Result<bool> Stage::wants(LinkFile& archive, size_t entry) {
  const NameId name = archive.index_names()[entry];
  const SymbolState state = table_.state_of(name);
  if (state == SymbolState::undefined) return true;
  // An import serves a program that declared its name without saying so (ld manual, --enable-auto-import).
  const auto imported =
      line_.linking == Linking::gnu_pe ? imported_name(archive.archive()->index[entry].symbol) : std::string_view();
  if (!imported.empty() && table_.state_of(imported) == SymbolState::undefined) return true;
  if (state != SymbolState::common) return false;
  auto object = archive.object(archive.archive()->index[entry].member);
  if (!object) return pass(object);
  const auto& symbols = (*object)->symbols;
  return std::any_of(symbols.begin(), symbols.end(),
                     [&](const LinkSymbol& s) { return s.name == name && s.defined && !s.common; });
}

Result<bool> Stage::enter(LinkFile& archive, uint32_t member) {
  auto object = archive.object(member);
  if (!object) return pass(object);
  entered_[&archive][member] = true;
  add_object(**object);
  result_.pulled.push_back((*object)->label);
  result_.members.push_back(*object);
  result_.used.insert(archive.path());
  return true;
}

/// Every member, in the archive's order.
Result<bool> Stage::pull_all(LinkFile& archive) {
  auto& entered = entered_[&archive];
  entered.resize(archive.archive()->members.size());
  for (uint32_t member = 0; member < entered.size(); ++member) {
    if (entered[member]) continue;
    if (auto done = enter(archive, member); !done) return done;
  }
  return true;
}

/// Goes through the archive's symbol table until a whole pass finds nothing. True when a member entered.
Result<bool> Stage::pull(LinkFile& archive) {
  auto& entered = entered_[&archive];
  entered.resize(archive.archive()->members.size());
  const auto& index = archive.archive()->index;
  bool any = false;
  for (bool again = true; again;) {
    again = false;
    for (size_t i = 0; i < index.size(); ++i) {
      if (entered[index[i].member]) continue;
      auto wanted = wants(archive, i);
      if (!wanted) return wanted;
      if (!*wanted) continue;
      if (auto done = enter(archive, index[i].member); !done) return done;
      again = any = true;
    }
  }
  return any;
}

Result<bool> Stage::search_archives(const Archives& archives, bool again) {
  for (bool more = true; more;) {
    more = false;
    for (LinkFile* archive : archives) {
      auto pulled = pull(*archive);
      if (!pulled) return pulled;
      more = more || (*pulled && again);
    }
  }
  return true;
}

Result<bool> Stage::close_group(Archives& group) {
  auto searched = search_archives(group, true);
  group.clear();
  return searched;
}

/// Where the linker looks for a shared library's own needs: the library's run path, then the search directories.
std::optional<fs::path> Stage::locate_need(const Shared& user, const std::string& name) const {
  std::vector<fs::path> folders;
  const Image& image = user.file->image();
  for (const auto& paths : {image.runpath, image.rpath}) {
    for (std::string path : paths) {
      for (const char* origin : {"$ORIGIN", "${ORIGIN}"}) {
        const size_t at = path.find(origin);
        if (at != std::string::npos)
          path.replace(at, std::string_view(origin).size(), user.file->path().parent_path().string());
      }
      folders.emplace_back(path);
    }
  }
  folders.insert(folders.end(), line_.search.begin(), line_.search.end());
  // Install names of macOS are paths on the user's machine; here the file lies with the others.
  const fs::path file = fs::path(name).filename();
  const auto found = find_library(folders, ":" + file.string(), false);
  if (found || line_.linking != Linking::macho) return found;
  return find_library(folders, ":" + fs::path(file).replace_extension(".tbd").string(), false);
}

/// Loads what the shared libraries need, and what those need, so that their undefined names can be judged.
Result<bool> Stage::load_needs() {
  if (line_.linking != Linking::elf) return true;
  for (size_t i = 0; i < shared_.size(); ++i) {
    for (const auto& need : shared_[i].file->image().needs) {
      if (knows_shared(need.name)) continue;
      const auto path = locate_need(shared_[i], need.name);
      if (!path) {
        result_.missing_needs.push_back(need.name);
        continue;
      }
      auto file = files_.open(*path, line_.target);
      if (!file) return pass(file);
      if (!(*file)->is_shared()) continue;
      shared_.push_back({*file, need.name});
      table_.add_needed_by_shared(**file);
    }
  }
  return true;
}

bool Stage::is_bounded_by_section(std::string_view name) const {
  const auto section = bounded_section(name);
  return !section.empty() && table_.has_section(section);
}

/// Whether an undefined name counts: a relocation in a kept section refers to it, or a shared library needs it.
Result<std::optional<Unresolved>> Stage::judge(NameId symbol) const {
  const std::string_view name = table_.names().text(symbol);
  const SymbolEntry& entry = table_.at(symbol);
  if (is_linker_defined(name, line_.target) || is_bounded_by_section(name) ||
      has_substitute(name, table_, line_, directives_.alternates))
    return std::optional<Unresolved>{};
  for (const auto& reference : table_.references_to(symbol)) {
    const EnteredObject& entered = table_.objects()[reference.object];
    auto place = place_of_reference(entered, reference.symbol);
    if (!place) return pass(place);
    if (*place)
      return std::optional(Unresolved{std::string(name), entered.object->label, **place, false, entered.object->file});
  }
  const bool from_stand_in = entry.wanted_by_object && entry.last_reference < 0;
  if (from_stand_in) return std::optional(Unresolved{std::string(name), "the program's sources", {}, false});
  if (!entry.wanted_by_shared) return std::optional<Unresolved>{};
  const Shared& user = shared_[static_cast<size_t>(entry.shared_user)];
  return std::optional(Unresolved{std::string(name), user.name, {}, true, user.file->path()});
}

Result<Rehearsal> Stage::conclude(const RehearsalOptions& options) {
  for (const auto& shared : shared_) result_.loaded.insert(shared.name);
  for (const NameId name : options.allow_unresolved ? std::vector<NameId>() : table_.undefined()) {
    auto judged = judge(name);
    if (!judged) return pass(judged);
    if (*judged) result_.unresolved.push_back(std::move(**judged));
  }
  for (const auto& clash : table_.clashes())
    result_.duplicates.push_back({std::string(table_.names().text(clash.symbol)), clash.first, clash.second});
  for (const NameId name : table_.thread_clashes()) result_.thread_clashes.emplace_back(table_.names().text(name));
  for (const NameId name : table_.hidden_from_shared()) {
    const SymbolEntry& entry = table_.at(name);
    result_.kept_back.push_back({std::string(table_.names().text(name)),
                                 table_.objects()[static_cast<size_t>(entry.definer)].object->label,
                                 shared_[static_cast<size_t>(entry.shared_user)].name});
  }
  std::sort(result_.unresolved.begin(), result_.unresolved.end(),
            [](const auto& a, const auto& b) { return a.symbol < b.symbol; });
  std::sort(result_.duplicates.begin(), result_.duplicates.end(),
            [](const auto& a, const auto& b) { return a.symbol < b.symbol; });
  return std::move(result_);
}

}  // namespace

Result<Rehearsal> rehearse(FileStore& files, const LinkLine& line, const RehearsalOptions& options) {
  files.open_ahead(files_of(line), line.target);
  Stage stage(files, line);
  if (options.stand_in != nullptr) {
    for (const auto& name : options.stand_in->defines) stage.table().define(name);
    for (const auto& name : options.stand_in->needs) stage.table().want(name);
  }
  if (options.script_symbols != nullptr) {
    for (const auto& name : *options.script_symbols) stage.table().define(name);
  }
  if (auto visited = stage.visit(line.steps); !visited) return pass(visited);
  if (auto loaded = stage.load_needs(); !loaded) return pass(loaded);
  return stage.conclude(options);
}

}  // namespace fibula
