#include "take/sources/bindings.hpp"

#include "base/text.hpp"
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

/// `python/bindings.cc` is no part of a library in C or C++, whatever else the tree shows.
bool is_called_after_a_language(const std::string& folder) {
  static constexpr std::string_view languages[] = {"python", "java", "jni",    "ruby", "perl",  "php",    "lua",
                                                   "node",   "r",    "csharp", "rust", "swift", "matlab", "octave",
                                                   "julia",  "tcl",  "guile",  "go",   "ocaml", "haskell"};
  for (const auto& part : fs::path(folder)) {
    if (std::find(std::begin(languages), std::end(languages), text::lower(part.string())) != std::end(languages))
      return true;
  }
  return false;
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
    if (serving.contains(folder)) continue;
    if (is_called_after_a_language(folder)) {
      for (const auto& file : files) {
        if (const std::string header = lacked_by_all(tree, {file}, needed); !header.empty())
          bindings[header].push_back(file);
      }
    } else if (const std::string header = serving.empty() ? "" : lacked_by_all(tree, files, needed); !header.empty()) {
      bindings[header].insert(bindings[header].end(), files.begin(), files.end());
    }
  }
  return bindings;
}

std::vector<std::string> for_other_languages(const CodeTree& tree, const std::set<std::string>& kept,
                                             const std::set<std::string>& declared) {
  std::set<std::string> called, defined;
  bool serves = false;
  std::vector<std::string> others;
  for (const auto& file : kept) {
    const CodeFile& code = tree.file(file);
    if (is_called_after_a_language(folder_of(file))) {
      others.push_back(file);
      continue;
    }
    called.insert(code.names.mentions.begin(), code.names.mentions.end());
    defined.insert(code.names.defines.begin(), code.names.defines.end());
    serves = serves || std::any_of(code.names.defines.begin(), code.names.defines.end(),
                                   [&](const std::string& name) { return declared.contains(name); });
  }
  if (!serves) return {};
  std::erase_if(others, [&](const std::string& file) {
    const auto& defines = tree.file(file).names.defines;
    return std::any_of(defines.begin(), defines.end(), [&](const std::string& name) {
      return called.contains(name) && declared.contains(name) && !defined.contains(name);
    });
  });
  return others;
}

}  // namespace fibula
