#include "take/sources/compared_names.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <filesystem>

namespace fibula {
namespace {

namespace fs = std::filesystem;

class Comparison {
 public:
  Comparison(const CodeTree& tree, const std::set<std::string>& kept, const std::set<std::string>& declared)
      : tree_(tree), kept_(kept), declared_(declared) {}

  /// Names that a file uses which does not define them: others are everybody's own, whatever a macro says of them.
  std::set<std::string> wanted_elsewhere(const std::set<std::string>& names) const {
    std::set<std::string> wanted;
    for (const auto& name : names) {
      const bool used = std::any_of(kept_.begin(), kept_.end(), [&](const std::string& file) {
        const SourceNames& other = tree_.file(file).names;
        return other.mentions.contains(name) && !other.defines.contains(name);
      });
      if (used || declared_.contains(name)) wanted.insert(name);
    }
    return wanted;
  }

  /// Of C++ only files of one name in several folders are compared: overloads in files that different people thought of
  /// look the same too often.
  std::set<std::string> of_files_called_so(const std::string& file) const {
    const std::string called = fs::path(file).filename().string();
    const auto is_called_so = [&](const std::string& other) {
      return other != file && fs::path(other).filename() == called;
    };
    std::set<std::string> names;
    if (std::none_of(kept_.begin(), kept_.end(), is_called_so)) return names;
    std::map<std::string, std::vector<std::string>> by_last_part;
    std::set<std::string> last_parts;
    for (const auto& whole : tree_.file(file).always_whole) {
      const std::string plain = whole.substr(0, whole.find('('));
      const std::string last = plain.substr(plain.find_last_of(":~") + 1);
      by_last_part[last].push_back(called + " " + whole);
      last_parts.insert(last);
    }
    for (const auto& part : wanted_elsewhere(last_parts))
      names.insert(by_last_part[part].begin(), by_last_part[part].end());
    return names;
  }

 private:
  const CodeTree& tree_;
  const std::set<std::string>& kept_;
  const std::set<std::string>& declared_;
};

}  // namespace

std::set<std::string> names_to_compare(const CodeTree& tree, const std::set<std::string>& kept,
                                       const std::set<std::string>& declared, const std::string& file) {
  // What defines a name in assembly for NASM looks like nothing in C.
  if (text::lower(file).ends_with("asm")) return {};
  const Comparison comparison(tree, kept, declared);
  return source_is_cxx(file) ? comparison.of_files_called_so(file)
                             : comparison.wanted_elsewhere(tree.file(file).always);
}

}  // namespace fibula
