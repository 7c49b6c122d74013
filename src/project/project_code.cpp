#include "project/project_code.hpp"

#include "base/text.hpp"
#include "headers/header_folders.hpp"
#include "making/configure_script.hpp"
#include "os/files.hpp"
#include "project/side_programs.hpp"
#include "project/source_kind.hpp"
#include "take/sources/rivals.hpp"
#include "take/sources/script_templates.hpp"

#include <algorithm>
#include <iterator>

namespace fibula {
namespace {

/// `.m` is the ending of other languages' files too.
bool is_code(const fs::path& root, const fs::path& file) {
  const auto kind = source_kind(file);
  if (kind != SourceKind::objective_c) return is_compiled(kind);
  const std::string text = read_text(root / file).value_or("");
  return text.find("@interface") != std::string::npos || text.find("@implementation") != std::string::npos ||
         text.find("#import") != std::string::npos || text.find("#include") != std::string::npos;
}

/// What tests a project has are built like the rest of it.
bool is_no_test(const std::string& /*file*/) {
  return false;
}

Source source_of(const fs::path& root, const std::vector<fs::path>& files) {
  Source source;
  source.root = root;
  source.called = root.filename().string();
  for (const auto& path : files) {
    const std::string file = path.generic_string();
    auto& list = is_header_name(file) ? source.headers : is_code(root, path) ? source.code : source.goes_along;
    list.push_back(file);
  }
  return source;
}

/// With which programs begin, on every system.
bool has_entry(const SourceNames& names) {
  return names.has_main || names.defines.contains("WinMain") || names.defines.contains("wWinMain") ||
         names.defines.contains("wmain");
}

/// Functions of C++ are told apart by more than the last part of their names.
bool is_cxx(const std::string& file) {
  const auto kind = source_kind(file);
  return kind == SourceKind::cxx || kind == SourceKind::objective_cxx;
}

bool builds_one_of(const std::set<std::string>& lanes, const std::vector<std::string>& names) {
  return lanes.empty() || names.empty() ||
         std::any_of(names.begin(), names.end(), [&](const std::string& name) { return lanes.contains(name); });
}

bool are_for(const BuildsFor& lanes, const SourceSystem& system) {
  return builds_one_of(lanes.systems, system.systems) && builds_one_of(lanes.archs, system.archs);
}

}  // namespace

ProjectCode::ProjectCode(const fs::path& root, const std::vector<fs::path>& files, const BuildsFor& lanes,
                         DefinedNames handed)
    : lanes_(lanes),
      source_(source_of(root, files)),
      tree_(source_, is_no_test, std::move(handed)),
      stand_ins_{root, lanes_, tree_} {
  for (const auto& [file, code] : tree_.files()) {
    if (code.only_includes) {
      left_out_.collections.push_back(file);
    } else {
      compiled_.insert(file);
    }
  }
  for (const auto& header : configured_headers(root)) made_by_script_.insert(fs::path(header.name).filename().string());
  const auto tried_by_script = tried_sources(root);
  std::erase_if(compiled_, [&](const std::string& file) {
    const bool tried = tree_.file(file).is_program && tried_by_script.contains(file);
    if (tried) left_out_.tried.push_back(file);
    return tried;
  });
  leave_out_foreign();
  leave_out_included();
  find_mains();
}

/// A program that can be for another system only is what somebody wants to build all the same.
void ProjectCode::find_mains() {
  const auto begins = [&](const std::string& file) { return begins_program(file); };
  std::copy_if(compiled_.begin(), compiled_.end(), std::back_inserter(mains_), begins);
  if (!mains_.empty()) return;
  auto& foreign = left_out_.foreign;
  std::copy_if(foreign.begin(), foreign.end(), std::back_inserter(mains_), begins);
  compiled_.insert(mains_.begin(), mains_.end());
  std::erase_if(foreign, [&](const std::string& file) { return compiled_.contains(file); });
}

/// A `main` that a macro asks for, as to try a source out by itself, is none.
bool ProjectCode::begins_program(const std::string& file) const {
  if (!has_entry(tree_.file(file).names)) return false;
  const std::string text = read_text(source_.root / file).value_or("");
  return has_entry(names_in_source(text_where(text, names_of_linux()))) ||
         has_entry(names_in_source(text_where(text, names_of_windows())));
}

/// Files of systems that no lane is for; of several that define the same, those that are made for less give way.
void ProjectCode::leave_out_foreign() {
  const std::set<std::string> wanted = wanted_names();
  std::map<std::string, PlacedSource> placed;
  for (const auto& file : compiled_) {
    PlacedSource one{tree_.system_of(file), {}};
    // Each program has a `usage` of its own.
    if (!is_cxx(file) && !tree_.file(file).is_program) {
      const auto& always = tree_.file(file).always;
      std::set_intersection(always.begin(), always.end(), wanted.begin(), wanted.end(),
                            std::inserter(one.names, one.names.end()));
    }
    if (one.system.foreign || stand_ins_.has(file)) {
      left_out_.foreign.push_back(file);
    } else {
      placed.emplace(file, std::move(one));
    }
  }
  left_out_.outdone = settle_rivals(placed);
  for (const auto& [file, one] : placed) {
    if (!are_for(lanes_, one.system)) left_out_.foreign.push_back(file);
    note_systems(file, one.system);
  }
  drop(left_out_.outdone);
  drop(left_out_.foreign);
  take_back_called();
}

/// Nothing in it needs another system.
bool ProjectCode::is_foreign_by_name_alone(const std::string& file) const {
  const SourceSystem by_includes = system_of_source("", tree_.file(file).needs);
  const auto& needs = tree_.file(file).needs;
  const auto is_there = [&](const std::string& name) {
    return tree_.is_there(name, file) || made_by_script_.contains(fs::path(name).filename().string());
  };
  return !stand_ins_.has(file) && !by_includes.foreign && are_for(lanes_, by_includes) &&
         std::all_of(needs.begin(), needs.end(), is_there);
}

/// `gm_beos.c` may be about another system's disks: what an ordinary build calls, and nothing else defines, is no
/// other system's.
void ProjectCode::take_back_called() {
  std::set<std::string> mentioned;
  std::erase_if(left_out_.foreign, [&](const std::string& file) {
    if (!is_foreign_by_name_alone(file)) return false;
    if (mentioned.empty()) {
      for (const auto& other : compiled_) {
        const std::string text = read_text(source_.root / other).value_or("");
        mentioned.merge(names_in_source(text_where(text, names_of_linux())).mentions);
      }
      for (const auto& other : compiled_) {
        for (const auto& name : tree_.file(other).names.defines) mentioned.erase(name);
      }
    }
    const auto& always = tree_.file(file).always;
    const bool called = std::any_of(always.begin(), always.end(), [&](const std::string& name) {
      return mentioned.contains(name) || tree_.macros().may_be_pasted(name);
    });
    if (called) compiled_.insert(file);
    return called;
  });
}

void ProjectCode::note_systems(const std::string& file, const SourceSystem& system) {
  if (system.systems.empty()) return;
  std::vector<std::string> names;
  for (const auto& name : system.systems) {
    if (lanes_.systems.contains(name)) names.push_back(name);
  }
  if (!names.empty() && names.size() < lanes_.systems.size()) only_for_[file] = std::move(names);
}

bool ProjectCode::serves_lanes(const std::string& header) const {
  const SourceSystem system = system_of_source(header, {});
  return !system.foreign && are_for(lanes_, system);
}

/// A source that others take in with #include is none of its own.
void ProjectCode::leave_out_included() {
  std::set<std::string> included;
  for (const auto& file : compiled_) {
    for (const auto& name : tree_.file(file).takes_in_usually) {
      const std::string beside = (fs::path(file).parent_path() / name).lexically_normal().generic_string();
      for (const auto& other : compiled_) {
        if (other != file && (other == beside || other.ends_with("/" + name))) included.insert(other);
      }
    }
  }
  left_out_.included.assign(included.begin(), included.end());
  drop(left_out_.included);
}

void ProjectCode::leave_out_incomplete(const std::set<std::string>& files, const std::set<std::string>& elsewhere) {
  for (const auto& file : files) {
    const auto& needs = tree_.file(file).needs;
    const auto lacking = std::find_if(needs.begin(), needs.end(), [&](const std::string& name) {
      return !tree_.is_there(name, file) && !elsewhere.contains(fs::path(name).filename().string());
    });
    if (lacking == needs.end() || compiled_.erase(file) == 0) continue;
    left_out_.incomplete[*lacking].push_back(file);
  }
}

void ProjectCode::leave_out_side_programs(const std::set<std::string>& tried) {
  const SidePrograms side(source_.root);
  const auto is_side = [&](const std::string& file) { return tried.contains(file) || side.has(file); };
  if (std::all_of(mains_.begin(), mains_.end(), is_side)) return;
  std::erase_if(mains_, is_side);
  std::copy_if(compiled_.begin(), compiled_.end(), std::back_inserter(left_out_.side), is_side);
  drop(left_out_.side);
}

/// Names that files use which do not define them.
std::set<std::string> ProjectCode::wanted_names() const {
  std::set<std::string> wanted;
  for (const auto& file : compiled_) {
    const SourceNames& names = tree_.file(file).names;
    for (const auto& name : names.mentions) {
      if (!names.defines.contains(name)) wanted.insert(name);
    }
  }
  return wanted;
}

void ProjectCode::drop(const std::vector<std::string>& files) {
  for (const auto& file : files) compiled_.erase(file);
}

std::vector<SourceHeader> ProjectCode::made_headers(const std::string& place) {
  return fibula::made_headers(source_, tree_, compiled_, place, templates_by_script(source_, tree_));
}

std::vector<std::string> ProjectCode::remarks() const {
  std::vector<std::string> remarks = remarks_of(left_out_);
  remarks.insert(remarks.end(), source_.remarks.begin(), source_.remarks.end());
  return remarks;
}

}  // namespace fibula
