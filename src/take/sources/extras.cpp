#include "take/sources/extras.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "take/sources/public_headers.hpp"

#include <algorithm>

namespace fibula {
namespace {

class Extras {
 public:
  Extras(Source& source, const CodeTree& tree, std::set<std::string> kept, const std::set<std::string>& declared)
      : source_(source), tree_(tree), kept_(std::move(kept)), declared_(declared) {}

  std::map<std::string, std::vector<std::string>> find() {
    constexpr size_t few = 8;  // of so few none is an extra
    std::map<std::string, std::vector<std::string>> extras;
    for (const auto& [owner, files] : lacking()) {
      if (kept_.size() < few || files.size() * 4 > kept_.size()) continue;
      if (std::any_of(files.begin(), files.end(), [&](const auto& one) { return most_samples_call(one.first); }))
        continue;
      if (!leave_out_headers_of(source_, owner)) continue;
      for (const auto& [file, name] : files) {
        if (!is_one_systems_own(file) && !is_needed_by_many(file, files) && kept_.erase(file) != 0)
          extras[name].push_back(file);
      }
    }
    return extras;
  }

 private:
  using Files = std::map<std::string, std::string>;  ///< with the first header that each lacks

  std::map<std::string, Files> lacking() const {
    std::map<std::string, Files> by_owner;
    for (const auto& file : kept_) {
      const CodeFile& code = tree_.file(file);
      const auto linux = code.usual.find("linux");
      for (const auto& name : linux == code.usual.end() ? code.needs : linux->second) {
        if (!tree_.is_there(name, file) && !lies_in_tree(name) && system_of_source("", {name}).everywhere())
          by_owner[owner_of_header(name)].emplace(file, name);
      }
    }
    return by_owner;
  }

  /// Also where it is for one system: who asks for it there has it.
  bool lies_in_tree(const std::string& header) const {
    const auto is_it = [&](const std::string& file) { return file == header || file.ends_with("/" + header); };
    return std::any_of(source_.headers.begin(), source_.headers.end(), is_it) ||
           std::any_of(source_.goes_along.begin(), source_.goes_along.end(), is_it);
  }

  bool most_samples_call(const std::string& file) const {
    constexpr size_t enough = 60;  // a library can have thousands
    const auto& defines = tree_.file(file).names.defines;
    const size_t looked = std::min(source_.samples.size(), enough);
    const auto calls = [&](const std::string& sample) {
      const std::string text = read_text(source_.root / sample).value_or("");
      const auto words = text::identifiers(text);
      return std::any_of(words.begin(), words.end(), [&](std::string_view word) {
        const std::string name(word);
        return defines.contains(name) && declared_.contains(name);
      });
    };
    const auto end = source_.samples.begin() + static_cast<std::ptrdiff_t>(looked);
    return looked > 1 && static_cast<size_t>(std::count_if(source_.samples.begin(), end, calls)) * 2 > looked;
  }

  /// What several others call is no extra, but for those that lack the same; a table of all extras calls each.
  bool is_needed_by_many(const std::string& file, const Files& lacking_too) const {
    constexpr std::ptrdiff_t many = 4;
    const auto& defines = tree_.file(file).names.defines;
    return std::count_if(kept_.begin(), kept_.end(), [&](const std::string& other) {
             const auto& names = tree_.file(other).names;
             return !lacking_too.contains(other) &&
                    std::any_of(defines.begin(), defines.end(), [&](const std::string& name) {
                      return names.mentions.contains(name) && !names.defines.contains(name);
                    });
           }) >= many;
  }

  /// Whether it gives users on its system what other files give those on theirs: without it there would be nothing.
  bool is_one_systems_own(const std::string& file) const {
    const auto& mine = tree_.file(file).names.defines;
    size_t others = 0;
    for (const auto& other : kept_) {
      const auto& theirs = tree_.file(other).names.defines;
      const bool same = other != file && std::any_of(mine.begin(), mine.end(), [&](const std::string& name) {
                          return declared_.contains(name) && theirs.contains(name);
                        });
      if (same && tree_.system_of(other).systems.empty()) return false;
      others += same ? 1 : 0;
    }
    return others > 0;
  }

  Source& source_;
  const CodeTree& tree_;
  std::set<std::string> kept_;
  const std::set<std::string>& declared_;
};

}  // namespace

std::map<std::string, std::vector<std::string>> extras_among(Source& source, const CodeTree& tree,
                                                             std::set<std::string> kept,
                                                             const std::set<std::string>& declared) {
  return Extras(source, tree, std::move(kept), declared).find();
}

}  // namespace fibula
