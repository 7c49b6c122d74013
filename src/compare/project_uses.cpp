#include "compare/project_uses.hpp"

#include "base/text.hpp"
#include "headers/declarations.hpp"
#include "headers/header_folders.hpp"
#include "headers/include_lines.hpp"
#include "os/files.hpp"

#include <fibula/facts.hpp>
#include <fibula/symbols.hpp>

#include <algorithm>
#include <map>
#include <set>

namespace fibula {
namespace {

/// A source or header of the project.
struct OwnText {
  fs::path file;
  std::string text;
  SourceNames names;
  std::set<std::string> includes;
};

std::vector<OwnText> own_texts(const Project& project) {
  std::set<fs::path> files;
  for (const auto& output : project.outputs()) {
    for (const auto& source : project.sources(output)) files.insert(source);
    for (const auto& folder : output.headers) {
      const fs::path root = project.root() / folder;
      for (const auto& file : files_below(root, 20'000).value_or(std::vector<fs::path>())) {
        if (is_header_name(file.string()) && !file.string().starts_with(".fibula")) files.insert(root / file);
      }
    }
  }
  std::vector<OwnText> texts;
  for (const auto& file : files) {
    auto text = read_text(file);
    if (!text) continue;
    OwnText own{.file = file, .text = std::move(*text)};
    own.names = names_in_source(own.text);
    for (auto& line : include_lines(own.text)) own.includes.insert(std::move(line.name));
    texts.push_back(std::move(own));
  }
  return texts;
}

/// The first line that holds the word outside of a comment; zero where only something longer does.
unsigned line_of(const OwnText& own, const std::string& word) {
  unsigned number = 0;
  for (const auto line : text::lines(own.text)) {
    ++number;
    const auto code = text::trim(line.substr(0, line.find("//")));
    if (!code.starts_with('*') && !code.starts_with("/*") && text::has_word(code, word)) return number;
  }
  return 0;
}

unsigned line_of_include(const OwnText& own, const std::string& header) {
  for (const auto& line : include_lines(own.text)) {
    if (line.name == header) return line.line;
  }
  return 0;
}

/// What the objects and the other libraries of the project's links ask for, by symbol: the files that do.
std::map<std::string, std::set<fs::path>, std::less<>> asked_for(const Project& project, const std::vector<Fit>& fits,
                                                                 const std::string& library) {
  std::map<std::string, std::set<fs::path>, std::less<>> asked;
  std::set<fs::path> files;
  for (const auto& fit : fits) {
    for (const auto& output : project.outputs()) {
      for (const auto& source : project.sources(output)) files.insert(project.object_of(fit.lane, output, source));
    }
    for (const auto& link : fit.links) {
      for (const auto& input : link.inputs) {
        if (input.library != library && input.library != "system" && has_library_name(input.path))
          files.insert(input.path);
      }
    }
  }
  for (const auto& file : files) {
    (void)visit_symbols(file, [&](const SymbolView& symbol) {
      if (!symbol.defines) asked[std::string(symbol.name)].insert(file);
    });
  }
  return asked;
}

class UseSearch {
 public:
  UseSearch(const Project& project, const std::vector<Fit>& fits, const std::string& library)
      : texts_(own_texts(project)), asked_(asked_for(project, fits, library)) {}

  void fill(Difference& difference) const {
    for (const auto& name : difference.seen_as) {
      if (name.empty()) continue;
      const std::string other = name == difference.name || difference.name.ends_with(name) ? "" : name;
      for (const auto& own : texts_) {
        if (difference.kind == DifferenceKind::header && own.includes.contains(name)) {
          difference.used_by.push_back({own.file, line_of_include(own, name), {}});
        } else if (own.names.mentions.contains(name)) {
          difference.used_by.push_back({own.file, line_of(own, name), other});
        }
      }
    }
    // A source says more than the object that was made of it.
    if (!difference.used_by.empty()) return;
    for (const auto& name : difference.seen_as) {
      const auto found = asked_.find(name);
      if (found == asked_.end()) continue;
      for (const auto& file : found->second) difference.used_by.push_back({.file = file});
    }
  }

 private:
  std::vector<OwnText> texts_;
  std::map<std::string, std::set<fs::path>, std::less<>> asked_;
};

}  // namespace

void find_uses(const Project& project, const std::vector<Fit>& fits, const std::string& library,
               std::vector<Difference>& differences) {
  const UseSearch search(project, fits, library);
  for (auto& difference : differences) search.fill(difference);
}

}  // namespace fibula
