/// glibc's search (ld.so(8); elf/dl-load.c tells what the page leaves open) and musl's (ldso/dynlink.c).
#include "facts/system_files.hpp"
#include "loader/search.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr std::string_view started_in = "the folder in which the program is started";

/// Directories of run paths; what is relative is found only where the program is started from the right folder.
void through_run_paths(Search& search, const std::vector<RunPath>& paths, const Surroundings& around,
                       const std::string& name) {
  for (const auto& path : paths) {
    if (path.directory.starts_with('/')) {
      search.in(path.directory, name, NeedStatus::found, fmt::format("run path of {}: {}", path.from, path.directory));
      continue;
    }
    const std::string why =
        path.directory.empty()
            ? fmt::format("the run path of {} has an empty entry, which means {}", path.from, started_in)
            : fmt::format("the run path of {} has {}, seen from {}", path.from, path.directory, started_in);
    search.in(around.folder / path.directory, name, NeedStatus::by_luck, why);
  }
}

void through_variable(Search& search, const Surroundings& around, const std::string& name) {
  for (const auto& directory : around.system.of_variable())
    search.in(directory, name, NeedStatus::by_luck, fmt::format("LD_LIBRARY_PATH: {}", directory.string()));
}

void through_cache(Search& search, TargetSystem& system, const std::string& name) {
  if (search.over()) return;
  for (const auto path : system.cached(name))
    search.at(path, NeedStatus::system, fmt::format("the loader's cache: {}", path.substr(0, path.rfind('/'))));
}

void through_standard(Search& search, const Surroundings& around, const Target& target, const std::string& name) {
  if (search.over()) return;
  for (const auto& directory : around.system.standard_directories(target, around.musl))
    search.in(directory, name, NeedStatus::system, fmt::format("standard directory {}", directory));
}

/// What lies beside files that ask for it, where nothing leads the loader.
void by_chance(Search& search, const Surroundings& around, const Asker& asker, const std::string& name) {
  if (search.over()) return;
  constexpr const char* why = "lies beside the file that needs it, where no run path leads";
  search.in(asker.file->path.parent_path(), name, NeedStatus::by_luck, why);
  search.in(around.folder, name, NeedStatus::by_luck, "lies beside the program, where no run path leads");
}

/// Other files of the name that a reader could take for the one that is loaded.
void compare_others(Search& search, const Surroundings& around, const Asker& asker, const std::string& name) {
  for (const auto& path : asker.searched) {
    if (path.directory.starts_with('/')) search.compare(fs::path(path.directory) / name);
  }
  search.compare(around.folder / name);
}

std::string missing_text(const Surroundings& around, const std::string& name) {
  for (const auto& directory : around.system.has_cache() ? around.system.configured() : std::vector<std::string>()) {
    std::error_code ignored;
    const fs::path path = around.system.places_of(fs::path(directory) / name).front();
    if (fs::exists(path, ignored))
      return fmt::format("{} is there, and the loader's cache does not know it: ldconfig was not run since",
                         path.string());
  }
  return "not on a run path, not in a standard directory, not beside the file";
}

Found find_musl(const Surroundings& around, const Target& target) {
  const std::string_view arch = target.arch == Arch::x86 ? "i386" : to_string(target.arch);
  Search search(around, target, {});
  search.at(fmt::format("/lib/ld-musl-{}.so.1", arch), NeedStatus::system, "musl's loader is the library too");
  return std::move(search).result("musl's loader is not there, and it is this library");
}

}  // namespace

Found find_elf(const Surroundings& around, const Asker& asker, const std::string& name) {
  const Target& target = asker.file->target;
  if (around.musl && is_musl_itself(name)) return find_musl(around, target);
  Search search(around, target, {.passes_other_machines = !around.musl});
  if (name.find('/') != std::string::npos) {
    const std::string path = expanded(name, *asker.file);
    const bool fixed = path.starts_with('/');
    search.at(fixed ? fs::path(path) : around.folder / path, fixed ? NeedStatus::found : NeedStatus::by_luck,
              fixed ? "by its path" : fmt::format("a path seen from {}", started_in));
    return std::move(search).result(fixed ? "nothing is at this path"
                                          : fmt::format("a path seen from {}, and nothing is there", started_in));
  }
  // RPATH comes before the variable, RUNPATH behind it; musl asks the variable first (ldso/dynlink.c).
  const bool variable_first = around.musl || !asker.file->runpath.empty();
  if (variable_first) through_variable(search, around, name);
  through_run_paths(search, asker.searched, around, name);
  if (!variable_first) through_variable(search, around, name);
  if (!asker.file->only_run_paths) {
    through_cache(search, around.system, name);
    through_standard(search, around, target, name);
  }
  by_chance(search, around, asker, name);
  compare_others(search, around, asker, name);
  return std::move(search).result(search.over() ? "" : missing_text(around, name));
}

}  // namespace fibula
