#include "take/sources/own_macros.hpp"

#include "base/text.hpp"
#include "making/configure_script.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/naming.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// TIDE and LIBTIDE, of either.
std::vector<std::string> stems_of(const std::string& library) {
  const std::string stem = macro_name(library);
  if (stem.starts_with("LIB") && stem.size() > 3) return {stem, stem.substr(3)};
  return {stem, "LIB" + stem};
}

/// What is left of a macro's name without the part that says "being compiled"; empty where none does.
std::string stem_of(const std::string& macro) {
  for (const std::string_view end : {"_LIB", "_LIBRARY", "_SOURCE", "_COMPILATION", "_INTERNAL", "_BUILD"}) {
    if (macro.ends_with(end)) return macro.substr(0, macro.size() - end.size());
  }
  for (const std::string_view start : {"BUILDING_", "COMPILING_", "BUILD_"}) {
    if (macro.starts_with(start)) return macro.substr(start.size());
  }
  return {};
}

/// Macros without which a source says `#error`.
void note_demanded(std::string_view text, DefinedNames& demanded) {
  std::string_view asked;
  for (const auto line : text::lines(text)) {
    const auto word = text::trim(line);
    if (word.empty()) continue;
    const auto directive = word.starts_with('#') ? text::trim(word.substr(1)) : std::string_view();
    if (!asked.empty() && directive.starts_with("error")) demanded.emplace(asked);
    asked = directive.starts_with("ifndef ") ? text::trim(directive.substr(7)) : std::string_view();
    asked = asked.substr(0, asked.find_first_of(" \t/"));
  }
}

/// HAVE_STDLIB_H and others of the headers that C has had since C99 (C99, 7.1.2), as configure steps define them.
bool asks_for_c_header(std::string_view macro) {
  static constexpr std::string_view headers[] = {"ASSERT", "CTYPE",  "ERRNO",  "FLOAT",  "INTTYPES", "LIMITS", "LOCALE",
                                                 "MATH",   "SETJMP", "SIGNAL", "STDARG", "STDBOOL",  "STDDEF", "STDINT",
                                                 "STDIO",  "STDLIB", "STRING", "TIME",   "WCHAR",    "WCTYPE"};
  if (!macro.starts_with("HAVE_") || !macro.ends_with("_H") || macro.size() < 8) return false;
  return std::find(std::begin(headers), std::end(headers), macro.substr(5, macro.size() - 7)) != std::end(headers);
}

/// What is read when the library is compiled: its sources, and headers that came.
std::vector<std::string> compiled_texts(const Source& source, const std::set<std::string>& sources) {
  std::vector<std::string> files(sources.begin(), sources.end());
  for (const auto* headers : {&source.headers, &source.goes_along}) {
    std::copy_if(headers->begin(), headers->end(), std::back_inserter(files),
                 [](const std::string& file) { return role_of(file) == Role::header; });
  }
  return files;
}

}  // namespace

std::vector<std::string> macros_of_c_headers(const Source& source, const CodeTree& tree,
                                             const std::set<std::string>& sources) {
  // Headers elsewhere in the tree are for other builds: `extra/tide_system.h`.
  std::set<std::string> folders;
  for (const auto& file : sources) folders.insert(folder_of(file));
  DefinedNames tested;
  for (const auto& file : compiled_texts(source, sources)) {
    if (folders.contains(folder_of(file))) note_tested_names(read_text(source.root / file).value_or(""), tested);
  }
  std::erase_if(tested, [&](const std::string& macro) {
    return !asks_for_c_header(macro) || !tree.macros().is_never_defined(macro);
  });
  return {tested.begin(), tested.end()};
}

std::vector<std::string> definitions_of_own_build(const CodeTree& tree, const std::set<std::string>& sources,
                                                  const std::string& library, const std::filesystem::path& root) {
  std::vector<std::pair<const char*, std::string>> usual = {
      {"PACKAGE_NAME", library}, {"PACKAGE_STRING", library + " @version@"}, {"PACKAGE_VERSION", "@version@"}};
  if (hands_over_version(root)) usual.insert(usual.end(), {{"PACKAGE", library}, {"VERSION", "@version@"}});
  std::vector<std::string> found;
  for (const auto& [name, value] : usual) {
    const bool used = std::any_of(sources.begin(), sources.end(), [&, &wanted = name](const std::string& file) {
      return tree.file(file).names.mentions.contains(wanted);
    });
    if (used && tree.macros().is_never_defined(name)) found.push_back(std::string(name) + "=\"" + value + "\"");
  }
  return found;
}

std::vector<std::string> macros_of_own_build(const Source& source, const CodeTree& tree,
                                             const std::set<std::string>& sources, const std::string& library) {
  DefinedNames tested, exporting, demanded;
  for (const auto& file : compiled_texts(source, sources)) {
    const std::string text = read_text(source.root / file).value_or("");
    const bool exports = text.find("dllexport") != std::string::npos;
    note_tested_names(text, exports ? exporting : tested);
    if (sources.contains(file)) note_demanded(text, demanded);
  }
  const auto stems = stems_of(library);
  for (const auto& macro : tested) {
    const std::string stem = stem_of(macro);
    const bool own = std::find(stems.begin(), stems.end(), stem) != stems.end() || tree.macros().is_usual_prefix(stem);
    if (!stem.empty() && own && !exporting.contains(macro)) demanded.insert(macro);
  }
  std::vector<std::string> found;
  std::copy_if(demanded.begin(), demanded.end(), std::back_inserter(found),
               [&](const std::string& macro) { return tree.macros().is_never_defined(macro); });
  return found;
}

}  // namespace fibula
