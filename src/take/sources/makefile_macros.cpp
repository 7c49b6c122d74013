#include "take/sources/makefile_macros.hpp"

#include "base/text.hpp"
#include "making/configured_values.hpp"
#include "making/makefile_lines.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/sources/library_functions.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// What asks a system for more than it shows by itself (feature_test_macros(7)): not tested by sources, but by the
/// system's headers. Those that ask for less are for compilers in a stricter mode than lanes have.
bool asks_system_for_more(std::string_view name) {
  return name == "_GNU_SOURCE" || name == "_DEFAULT_SOURCE" || name == "_BSD_SOURCE" || name == "_FILE_OFFSET_BITS" ||
         name.starts_with("_LARGEFILE");
}

/// It belongs to lanes which system and configuration code is made for.
bool is_about_lane(const std::string& name) {
  static constexpr std::string_view telling[] = {"UNIX",  "LINUX",  "POSIX",  "WIN32",  "WIN64", "WINDOWS",
                                                 "MACOS", "OSX",    "DARWIN", "MINGW",  "APPLE", "DEBUG",
                                                 "DLL",   "SHARED", "TEST",   "EXPORT", "PIC",   "ENDIAN"};
  if (asks_system_for_more(name)) return false;
  const std::string upper = text::upper(name);
  return std::any_of(std::begin(telling), std::end(telling),
                     [&](std::string_view word) { return upper.find(word) != std::string::npos; });
}

/// Words before a bracket, outside of comments: calls, and what else stands so.
std::set<std::string> called_in(const std::string& text) {
  static const std::set<std::string_view> keywords = {"if",     "while",   "for",           "switch",  "return",
                                                      "sizeof", "defined", "__attribute__", "alignof", "_Alignof",
                                                      "catch",  "typeof",  "__typeof__",    "__asm__", "asm"};
  const auto mentions = names_in_source(text).mentions;
  std::set<std::string> called;
  for (const auto word : text::identifiers(text)) {
    const auto behind = static_cast<size_t>(word.data() + word.size() - text.data());
    const size_t next = text.find_first_not_of(" \t", behind);
    if (next != std::string::npos && text[next] == '(' && !keywords.contains(word)) called.emplace(word);
  }
  std::erase_if(called, [&](const std::string& name) { return !mentions.contains(name); });
  return called;
}

class MakefileMacros {
 public:
  MakefileMacros(const Source& source, const CodeTree& tree, const std::set<std::string>& sources)
      : source_(source), tree_(tree), sources_(sources) {
    note_asked();
  }

  bool is_asked_for(const std::string& name) const {
    if (asks_system_for_more(name)) return true;
    return (tested_.contains(name) || mentioned(name)) && !tree_.macros().is_defined_here(name) && has_all_with(name);
  }

 private:
  void note_asked() {
    for (const auto& file : sources_) note_tested_names(text_of(file), tested_);
    for (const auto* files : {&source_.headers, &source_.goes_along}) {
      for (const auto& file : *files) {
        if (role_of(file) == Role::header) note_tested_names(text_of(file), tested_);
      }
    }
  }

  bool mentioned(const std::string& name) const {
    return std::any_of(sources_.begin(), sources_.end(),
                       [&](const std::string& file) { return tree_.file(file).names.mentions.contains(name); });
  }

  /// Whether no source asks for a header or calls a function that is not here once the macro is defined.
  bool has_all_with(const std::string& name) const {
    return std::all_of(sources_.begin(), sources_.end(), [&](const std::string& file) {
      const std::string text = text_of(file);
      if (text.find(name) == std::string::npos) return true;
      DefinedNames defined = names_of_linux();
      const std::string before = text_where(text, defined);
      defined.insert(name);
      const std::string after = text_where(text, std::move(defined));
      return finds_headers(file, before, after) && finds_functions(before, after);
    });
  }

  bool finds_headers(const std::string& file, const std::string& before, const std::string& after) const {
    const auto known = include_lines(before), asked = include_lines(after);
    return std::all_of(asked.begin(), asked.end(), [&](const IncludeLine& line) {
      const auto is_it = [&](const IncludeLine& other) { return other.name == line.name; };
      return std::any_of(known.begin(), known.end(), is_it) || tree_.is_there(line.name, file);
    });
  }

  bool finds_functions(const std::string& before, const std::string& after) const {
    const auto known = called_in(before), called = called_in(after);
    Expansions own;
    note_expansions(after, own);
    return std::all_of(called.begin(), called.end(), [&](const std::string& name) {
      return known.contains(name) || own.contains(name) || is_here(name) || is_c99_function(name) ||
             is_posix_function(name) || is_beyond_posix(name) || is_of_linux(name);
    });
  }

  bool is_here(const std::string& name) const {
    const auto& files = tree_.files();
    return tree_.macros().is_defined_here(name) || tree_.macros().expansions().contains(name) ||
           std::any_of(files.begin(), files.end(),
                       [&](const auto& entry) { return entry.second.names.defines.contains(name); });
  }

  std::string text_of(const std::string& file) const { return read_text(source_.root / file).value_or(""); }

  const Source& source_;
  const CodeTree& tree_;
  const std::set<std::string>& sources_;
  DefinedNames tested_;
};

}  // namespace

std::vector<HandedDefinition> handed_by_makefiles(const Source& source) {
  std::set<std::string> folders{"", "src", "source"};
  for (const auto& file : source.code) folders.insert(folder_of(file));
  const auto configured = configured_values(source.root);
  std::vector<HandedDefinition> all;
  DefinedNames known;
  for (const auto& file : source.goes_along) {
    // Those that a configure step writes are its matter.
    const bool whole = fs::path(file).extension().empty() && is_makefile_name(file);
    if (!whole || !folders.contains(folder_of(file))) continue;
    for (auto& one : definitions_in_makefile(source.root, file, configured)) {
      // Whether there is such a header is known better here.
      if (!one.definition || is_about_lane(one.name) || one.name == "HAVE_CONFIG_H") continue;
      if (known.insert(one.name).second) all.push_back(std::move(one));
    }
  }
  return all;
}

std::vector<std::string> definitions_by_makefiles(const std::vector<HandedDefinition>& handed, const Source& source,
                                                  const CodeTree& tree, const std::set<std::string>& sources) {
  std::vector<std::string> found;
  if (handed.empty()) return found;
  const MakefileMacros macros(source, tree, sources);
  std::set<fs::path> folders{"", "src", "source"};
  for (const auto& file : sources) folders.insert(fs::path(file).parent_path());
  for (const auto& one : handed) {
    if (folders.contains(fs::path(one.file).parent_path()) && macros.is_asked_for(one.name))
      found.push_back(*one.definition);
  }
  return found;
}

}  // namespace fibula
