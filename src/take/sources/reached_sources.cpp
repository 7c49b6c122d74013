#include "take/sources/reached_sources.hpp"

#include <algorithm>

namespace fibula {

std::set<std::string> reached_sources(const CodeTree& tree, const std::set<std::string>& kept,
                                      const std::map<std::string, std::vector<std::string>>& wanted) {
  std::map<std::string, std::vector<std::string>> definers;
  for (const auto& file : kept) {
    for (const auto& name : tree.file(file).names.defines) definers[name].push_back(file);
  }
  std::set<std::string> reached;
  std::vector<std::string> open;
  // Where several places define a name, those that lie nearest to who asks are meant.
  const auto want = [&](const std::string& name, const std::string& asking) {
    const auto found = definers.find(name);
    if (found == definers.end()) return;
    size_t nearest = 0;
    for (const auto& file : found->second) nearest = std::max(nearest, common_folders(file, asking));
    for (const auto& file : found->second) {
      if (common_folders(file, asking) == nearest && reached.insert(file).second) open.push_back(file);
    }
  };
  for (const auto& [name, headers] : wanted) {
    for (const auto& header : headers) want(name, header);
  }
  while (!open.empty()) {
    const std::string file = std::move(open.back());
    open.pop_back();
    for (const auto& name : tree.macros().with_expansions(tree.file(file).names.mentions)) want(name, file);
  }
  return reached;
}

}  // namespace fibula
