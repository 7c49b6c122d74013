#include "take/sources/for_all_machines.hpp"

#include "base/text.hpp"
#include "os/files.hpp"

#include <algorithm>

namespace fibula {
namespace {

class Machines {
 public:
  Machines(std::map<std::string, PlacedSource>& sources, const Source& source, const CodeTree& tree,
           const DefinedNames& handed)
      : sources_(sources), source_(source), tree_(tree), defined_(names_of_linux()) {
    defined_.insert(handed.begin(), handed.end());
  }

  void settle() {
    std::map<std::string, std::vector<std::string>> one_machines;  // files by the names that they define
    for (const auto& [file, placed] : sources_) {
      if (!placed.system.archs.empty() && is_so_by_name(file)) {
        for (const auto& name : tree_.file(file).names.defines) one_machines[name].push_back(file);
      }
    }
    if (one_machines.empty()) return;
    for (const auto& [file, placed] : sources_) {
      if (!placed.system.archs.empty()) continue;
      open_.push_back(file);
      for (const auto& name : tree_.file(file).names.defines) one_machines.erase(name);
    }
    while (!open_.empty()) {
      const std::string file = std::move(open_.back());
      open_.pop_back();
      for (const auto& name : called_in(file)) {
        const auto found = one_machines.find(name);
        if (found != one_machines.end() && found->second.size() == 1) take_for_all(found->second.front());
      }
    }
  }

 private:
  /// Nothing in it but its name says so: no assembly, and no header with a machine's instructions.
  bool is_so_by_name(const std::string& file) const {
    const auto& includes = tree_.file(file).includes;
    return !is_assembly(file) && std::none_of(includes.begin(), includes.end(), [](const IncludeLine& line) {
      return line.name.ends_with("intrin.h") || line.name.starts_with("arm_") || line.name == "altivec.h";
    });
  }

  /// A declaration calls nothing.
  std::set<std::string> called_in(const std::string& file) const {
    const std::string text = text_where(read_text(source_.root / file).value_or(""), defined_);
    auto names = names_in_source(text).mentions;
    const auto words = text::identifiers(text);
    for (const auto& name : functions_left_to_a_binary(text)) {
      if (std::count(words.begin(), words.end(), name) == 1) names.erase(name);
    }
    return names;
  }

  void take_for_all(const std::string& file) {
    auto& archs = sources_.at(file).system.archs;
    if (archs.empty()) return;
    archs.clear();
    open_.push_back(file);
  }

  std::map<std::string, PlacedSource>& sources_;
  const Source& source_;
  const CodeTree& tree_;
  DefinedNames defined_;
  std::vector<std::string> open_;
};

}  // namespace

void settle_machines(std::map<std::string, PlacedSource>& sources, const Source& source, const CodeTree& tree,
                     const DefinedNames& handed) {
  Machines(sources, source, tree, handed).settle();
}

}  // namespace fibula
