#include "project/own_making.hpp"

#include "base/text.hpp"
#include "making/configure_script.hpp"
#include "making/makefile_definitions.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace fibula {

fs::path own_build_in(const fs::path& folder) {
  for (const char* name : {"configure", "configure.ac", "configure.in", "Makefile", "makefile", "GNUmakefile",
                           "Makefile.in", "Makefile.am", "autogen.sh", "bootstrap"}) {
    if (stamp_of(folder / name).is_file()) return folder / name;
  }
  return {};
}

std::vector<fs::path> folders_up_to(const fs::path& folder, const fs::path& top) {
  std::vector<fs::path> folders;
  for (fs::path at = folder; at != top && is_inside(top, at); at = at.parent_path()) folders.push_back(at);
  folders.push_back(top);
  return folders;
}

std::optional<OwnMaking> own_making(const std::string& name, const fs::path& folder, const fs::path& top) {
  for (const auto& at : folders_up_to(folder, top)) {
    for (const auto& header : configured_headers(at)) {
      if (fs::path(header.name).filename() == fs::path(name).filename())
        return OwnMaking{at / header.script, 0, header.name};
    }
    if (const std::string file = fs::path(name).filename().string(); is_written_by_script(at, file))
      return OwnMaking{at / "configure", 0, file};
    for (const auto& made : {fs::path(name), (folder / name).lexically_relative(at)}) {
      if (const auto rule = rule_making(at, made.generic_string()))
        return OwnMaking{at / rule->file, rule->line, made.generic_string()};
    }
  }
  return std::nullopt;
}

std::string how_to_make(const OwnMaking& making, const std::string& shown, const fs::path& top) {
  const std::string command = fmt::format("make {}, in {}", making.made, shown);
  const std::string makefile = text::lower(making.file.filename().string());
  if (!makefile.ends_with(".am") && !makefile.ends_with(".in")) return command;
  const auto folders = folders_up_to(making.file.parent_path(), top);
  const bool has_script = std::any_of(folders.begin(), folders.end(),
                                      [](const fs::path& folder) { return stamp_of(folder / "configure").is_file(); });
  return fmt::format("{}, then {}", has_script ? "run the configure step" : "make and run its configure script",
                     command);
}

}  // namespace fibula
