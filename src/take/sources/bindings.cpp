#include "take/sources/bindings.hpp"

#include "os/files.hpp"
#include "take/sources/source_system.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// The first header that all of them need, and that neither the tree nor a system has.
std::string lacked_by_all(const CodeTree& tree, const std::vector<std::string>& files,
                          const std::map<std::string, std::string>& needed) {
  for (const auto& name : tree.file(files.front()).needs) {
    const bool all = std::all_of(files.begin(), files.end(), [&](const std::string& file) {
      const auto& needs = tree.file(file).needs;
      return std::find(needs.begin(), needs.end(), name) != needs.end() && !tree.is_there(name, file);
    });
    if (all && !needed.contains(name) && system_of_source("", {name}).everywhere()) return name;
  }
  return {};
}

}  // namespace

std::map<std::string, std::vector<std::string>> bindings_among(const CodeTree& tree, const std::set<std::string>& kept,
                                                               const std::set<std::string>& declared,
                                                               const std::map<std::string, std::string>& needed) {
  std::map<std::string, std::vector<std::string>> folders;
  std::set<std::string> serving;
  for (const auto& file : kept) {
    const std::string folder = fs::path(file).parent_path().generic_string();
    folders[folder].push_back(file);
    const auto& defines = tree.file(file).names.defines;
    if (std::any_of(defines.begin(), defines.end(), [&](const auto& name) { return declared.contains(name); }))
      serving.insert(folder);
  }
  std::map<std::string, std::vector<std::string>> bindings;
  for (const auto& [folder, files] : folders) {
    if (serving.empty() || serving.contains(folder)) continue;
    const std::string header = lacked_by_all(tree, files, needed);
    if (!header.empty()) bindings[header].insert(bindings[header].end(), files.begin(), files.end());
  }
  return bindings;
}

}  // namespace fibula
