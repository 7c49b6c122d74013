#include "take/sources/own_definitions.hpp"

#include "os/files.hpp"
#include "take/naming.hpp"
#include "take/sources/left_out.hpp"
#include "take/sources/makefile_macros.hpp"
#include "take/sources/own_macros.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

std::string name_in(const std::string& definition) {
  return definition.substr(0, definition.find('='));
}

class OwnDefinitions {
 public:
  void add(std::string definition) {
    if (!has(definition)) all_.push_back(std::move(definition));
  }
  std::vector<std::string> take() { return std::move(all_); }

 private:
  bool has(const std::string& definition) const {
    return std::any_of(all_.begin(), all_.end(),
                       [&](const std::string& other) { return name_in(other) == name_in(definition); });
  }

  std::vector<std::string> all_;
};

bool are_asking_for(const std::set<std::string>& sources, const std::string& macro, const Source& source) {
  return std::any_of(sources.begin(), sources.end(), [&](const std::string& file) {
    return read_text(source.root / file).value_or("").find(macro) != std::string::npos;
  });
}

}  // namespace

std::vector<std::string> definitions_for(Source& source, const CodeTree& tree, const std::set<std::string>& sources,
                                         const std::vector<HandedDefinition>& handed,
                                         const std::map<std::string, std::string>& without, bool configured) {
  OwnDefinitions definitions;
  const std::string library = split_name(source.called).name;
  const auto tell = [&](const std::string& macro, std::string_view why) {
    source.remarks.push_back(fmt::format("{} is defined while its own sources are compiled: {}", macro, why));
    definitions.add(macro);
  };
  for (const auto& macro : macros_of_own_build(source, tree, sources, library)) tell(macro, "only its own build would");
  if (!configured) {
    const auto macros = macros_of_c_headers(source, tree, sources);
    if (!macros.empty())
      source.remarks.push_back(told_of(macros, "is defined while its own sources are compiled: C has that header",
                                       "are defined while its own sources are compiled: C has these headers"));
    for (const auto& macro : macros) definitions.add(macro);
  }
  for (const auto& [macro, header] : without) {
    if (are_asking_for(sources, macro, source)) tell(macro, header + " is not here");
  }
  for (auto& one : definitions_of_own_build(tree, sources, library, source.root)) definitions.add(std::move(one));
  for (auto& one : definitions_by_makefiles(handed, source, tree, sources)) definitions.add(std::move(one));
  return definitions.take();
}

}  // namespace fibula
