#include "project/handed_definitions.hpp"

#include "making/configured_values.hpp"
#include "making/makefile_lines.hpp"
#include "os/files.hpp"
#include "project/side_programs.hpp"
#include "project/source_kind.hpp"

#include <algorithm>
#include <set>

namespace fibula {

std::vector<HandedDefinition> handed_definitions(const fs::path& root) {
  std::vector<fs::path> files;
  for (const fs::path folder : {".", "src", "source"}) {
    for (const auto& name : files_directly_in(root / folder)) files.push_back((folder / name).lexically_normal());
  }
  return handed_definitions(root, files);
}

std::vector<HandedDefinition> handed_definitions(const fs::path& root, const std::vector<fs::path>& files) {
  std::vector<HandedDefinition> all;
  const auto configured = configured_values(root);
  const SidePrograms side(root);
  // A folder for one system's makefile has no sources.
  std::set<fs::path> folders{"", "src", "source"};
  for (const auto& file : files) {
    if (is_compiled(source_kind(file))) folders.insert(file.parent_path());
  }
  for (const auto& file : files) {
    if (!is_makefile_name(file.string()) || !folders.contains(file.parent_path()) || side.has(file.generic_string()))
      continue;
    for (auto& one : definitions_in_makefile(root, file, configured)) all.push_back(std::move(one));
  }
  // What is known whole says more than the same where it is yet to be filled in.
  std::stable_sort(all.begin(), all.end(), [](const HandedDefinition& a, const HandedDefinition& b) {
    return a.definition.has_value() && !b.definition.has_value();
  });
  return all;
}

}  // namespace fibula
