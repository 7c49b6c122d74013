#include "take/sources/source_directories.hpp"

#include "headers/header_roots.hpp"
#include "take/bundled.hpp"
#include "take/file_roles.hpp"

#include <algorithm>

namespace fibula {
namespace {

bool holds(const std::vector<std::string>& list, const std::string& one) {
  return std::find(list.begin(), list.end(), one) != list.end();
}

}  // namespace

std::vector<std::string> source_directories(const Source& source, const CodeTree& tree,
                                            const std::set<std::string>& sources) {
  std::vector<std::string> headers;
  for (const auto& file : source.goes_along) {
    if (role_of(file, source.own_folders) == Role::header) headers.push_back(file);
  }
  std::vector<std::string> code(sources.begin(), sources.end());
  code.insert(code.end(), tree.parts().begin(), tree.parts().end());
  auto directories = header_roots({source.root, {}, headers, {}, std::move(code)}).directories;
  const Bundled bundled(source);
  for (const auto& file : sources) {
    for (const auto& name : tree.file(file).needs) {
      if (comes_with_system(name) || !tree.own_header(name, file).empty()) continue;
      auto directory = bundled.directory_with(name);
      if (!directory.empty() && !holds(directories, directory)) directories.push_back(std::move(directory));
    }
  }
  std::erase_if(directories, [&](const std::string& directory) { return holds(source.directories, directory); });
  return directories;
}

}  // namespace fibula
