#include "take/sources/bundled_code.hpp"

#include "os/files.hpp"
#include "take/bundled.hpp"

#include <algorithm>

namespace fibula {
namespace {

class BundledCode {
 public:
  BundledCode(const Source& source, CodeTree& tree, const std::set<std::string>& kept)
      : source_(source), bundled_(source), tree_(tree) {
    // What users include is told to them as a library of its own.
    for (const auto& [header, asking] : source.elsewhere) apart_.insert(bundled_.library_with(header));
    for (const auto& file : kept) note(file);
  }

  /// What is taken in may include and call more.
  std::vector<std::string> find() {
    for (bool more = true; more;) {
      more = false;
      for (const auto& file : candidates()) {
        if (!is_called(file)) continue;
        note(file);
        found_.push_back(file);
        more = true;
      }
    }
    return std::move(found_);
  }

 private:
  void note(const std::string& file) {
    const CodeFile& code = tree_.file(file);
    defined_.insert(code.names.defines.begin(), code.names.defines.end());
    const auto called = tree_.macros().with_expansions(code.names.mentions);
    called_.insert(called.begin(), called.end());
    needed_.insert(code.needs.begin(), code.needs.end());
    for (const auto& [system, names] : code.usual) {
      for (const auto& name : names) libraries_.merge(bundled_.libraries_with_file(fs::path(name).filename().string()));
    }
  }

  /// Each is read when a header of its library was included.
  std::vector<std::string> candidates() {
    std::vector<std::string> all;
    std::erase_if(libraries_, [&](const std::string& library) { return apart_.contains(library); });
    for (const auto& file : bundled_.code_of(libraries_)) {
      if (is_called_a_test(file)) continue;
      tree_.add(file);
      const bool known = std::find(found_.begin(), found_.end(), file) != found_.end();
      if (!known && tree_.files().contains(file)) all.push_back(file);
    }
    return all;
  }

  bool is_called(const std::string& file) const {
    const CodeFile& code = tree_.file(file);
    const auto& defines = code.names.defines;
    return !code.is_program && std::any_of(defines.begin(), defines.end(), [&](const std::string& name) {
      return called_.contains(name) && !defined_.contains(name);
    }) && is_complete(file);
  }

  /// What it includes through headers beside it is there too, on each system.
  bool is_complete(const std::string& file) const {
    const auto& needs = tree_.file(file).needs;
    std::vector<std::string> open(needs.begin(), needs.end());
    std::set<std::string> seen;
    while (!open.empty()) {
      const std::string header = std::move(open.back());
      open.pop_back();
      if (!seen.insert(header).second || needed_.contains(header)) continue;
      if (!tree_.is_there(header, file) || !system_of_source("", {header}).everywhere()) return false;
      const auto text = read_text(source_.root / folder_of(file) / header);
      if (!text) continue;
      for (const auto& line : include_lines(*text)) {
        if (!line.conditional) open.push_back(line.name);
      }
    }
    return true;
  }

  const Source& source_;
  const Bundled bundled_;
  CodeTree& tree_;
  std::set<std::string> apart_, libraries_, defined_, called_, needed_;
  std::vector<std::string> found_;
};

}  // namespace

std::vector<std::string> bundled_code(const Source& source, CodeTree& tree, const std::set<std::string>& kept) {
  return BundledCode(source, tree, kept).find();
}

}  // namespace fibula
