#include "take/sources/unlisted.hpp"

#include "base/text.hpp"
#include "take/sources/makefiles.hpp"

#include <algorithm>
#include <filesystem>

namespace fibula {
namespace {

namespace fs = std::filesystem;

/// `tern.c`, `tern.o`, `src/tern.lo`, `tern.$(OBJEXT)`, as a word.
bool names_source(std::string_view makefiles, const std::string& file) {
  static constexpr std::string_view endings[] = {".c", ".o", ".lo", ".$", ".obj"};
  const std::string stem = fs::path(file).stem().string();
  for (size_t at = makefiles.find(stem); at != std::string_view::npos; at = makefiles.find(stem, at + 1)) {
    const bool begins = at == 0 || (!text::is_identifier_character(makefiles[at - 1]) && makefiles[at - 1] != '-');
    const auto rest = makefiles.substr(at + stem.size());
    if (begins && std::any_of(std::begin(endings), std::end(endings),
                              [&](std::string_view ending) { return rest.starts_with(ending); }))
      return true;
  }
  return false;
}

std::set<std::string> passed_over(const Source& source, const std::set<std::string>& files) {
  constexpr size_t telling = 5, nearly_all = 4;  // of five
  std::set<std::string> unlisted;
  const std::string makefiles = text_of_makefiles(source);
  if (makefiles.empty()) return unlisted;
  std::map<std::string, std::vector<std::string>> listed, others;  // by folder
  for (const auto& file : files) (names_source(makefiles, file) ? listed : others)[folder_of(file)].push_back(file);
  for (const auto& [folder, passed] : others) {
    const size_t named = listed[folder].size();
    if (named >= telling && named * 5 >= (named + passed.size()) * nearly_all)
      unlisted.insert(passed.begin(), passed.end());
  }
  return unlisted;
}

/// A header that is called like the file may be left behind with it.
bool is_declared_by_others(const std::vector<std::string>& headers, const std::string& file) {
  return std::any_of(headers.begin(), headers.end(),
                     [&](const std::string& header) { return fs::path(header).stem() != fs::path(file).stem(); });
}

}  // namespace

std::vector<std::string> unlisted_sources(const Source& source, const CodeTree& tree, const std::set<std::string>& kept,
                                          const std::map<std::string, std::vector<std::string>>& declared) {
  const auto unlisted = passed_over(source, kept);
  if (unlisted.empty()) return {};
  std::set<std::string> defined, wanted;
  for (const auto& file : kept) {
    if (unlisted.contains(file)) continue;
    const SourceNames& names = tree.file(file).names;
    defined.insert(names.defines.begin(), names.defines.end());
    wanted.insert(names.mentions.begin(), names.mentions.end());
  }
  std::vector<std::string> left;
  for (const auto& file : unlisted) {
    const auto& names = tree.file(file).names.defines;
    const bool alone = std::any_of(names.begin(), names.end(), [&](const std::string& name) {
      const auto known = declared.find(name);
      return !defined.contains(name) &&
             (wanted.contains(name) || (known != declared.end() && is_declared_by_others(known->second, file)));
    });
    if (!alone) left.push_back(file);
  }
  return left;
}

}  // namespace fibula
