#include "project/own_making.hpp"

#include "os/files.hpp"
#include "project/makefile_definitions.hpp"
#include "take/sources/configure_script.hpp"

namespace fibula {

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
    for (const auto& made : {fs::path(name), (folder / name).lexically_relative(at)}) {
      if (const auto rule = rule_making(at, made.generic_string()))
        return OwnMaking{at / rule->file, rule->line, made.generic_string()};
    }
  }
  return std::nullopt;
}

}  // namespace fibula
