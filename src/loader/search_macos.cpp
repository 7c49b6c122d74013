/// dyld(1).
#include "loader/search.hpp"

#include "facts/system_files.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

constexpr Patience dyld{.passes_other_machines = true, .passes_unloadable = true};

Found find_by_run_path(const Surroundings& around, const Asker& asker, const std::string& rest) {
  Search search(around, asker.file->target, dyld);
  for (const auto& path : asker.searched)
    search.in(path.directory, rest, NeedStatus::found, fmt::format("run path of {}: {}", path.from, path.directory));
  constexpr const char* beside = "lies beside the file that needs it, where no run path leads";
  search.in(asker.file->path.parent_path(), rest, NeedStatus::by_luck, beside);
  for (const auto& path : asker.searched) search.compare(fs::path(path.directory) / rest);
  return std::move(search).result("not on a run path");
}

}  // namespace

Found find_macos(const Surroundings& around, const Asker& asker, const std::string& name) {
  constexpr std::string_view by_rpath = "@rpath/", by_loader = "@loader_path/", by_program = "@executable_path/";
  if (is_macos_file(name)) return {.status = NeedStatus::system, .why = "part of the system"};
  if (name.starts_with(by_rpath)) return find_by_run_path(around, asker, name.substr(by_rpath.size()));
  Search search(around, asker.file->target, dyld);
  const fs::path folder = asker.file->path.parent_path();
  if (name.starts_with(by_loader)) {
    search.at(folder / name.substr(by_loader.size()), NeedStatus::found, "by its path from the file that needs it");
  } else if (name.starts_with(by_program)) {
    search.in(around.folder, name.substr(by_program.size()), NeedStatus::found, "by its path from the program");
  } else if (name.starts_with('/')) {
    search.at(name, NeedStatus::found, "by its path");
  } else {
    search.in(around.folder, name, NeedStatus::by_luck, "a path seen from the folder in which the program is started");
  }
  return std::move(search).result("nothing is at this path");
}

}  // namespace fibula
