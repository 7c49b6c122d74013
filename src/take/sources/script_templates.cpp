#include "take/sources/script_templates.hpp"

#include "base/text.hpp"
#include "headers/branches.hpp"
#include "making/configure_script.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/sources/template_header.hpp"

namespace fibula {
namespace {

/// Names that configure steps define, by their form.
bool is_configured_name(std::string_view name) {
  for (const std::string_view start : {"HAVE_", "SIZEOF_", "PACKAGE_"}) {
    if (name.starts_with(start)) return name != "HAVE_CONFIG_H";
  }
  return name == "PACKAGE" || name == "VERSION" || name == "STDC_HEADERS" || name == "WORDS_BIGENDIAN" ||
         name == "TIME_WITH_SYS_TIME" || name == "RETSIGTYPE";
}

/// Names that the sources and headers ask for, in conditions and elsewhere.
DefinedNames used_names(const Source& source) {
  DefinedNames used;
  for (const auto* files : {&source.code, &source.headers, &source.goes_along}) {
    for (const auto& file : *files) {
      // What users do not see asks too.
      if (files == &source.goes_along && role_of(file) != Role::header) continue;
      const std::string text = read_text(source.root / file).value_or("");
      note_tested_names(text, used);
      const auto mentions = names_in_source(text).mentions;
      used.insert(mentions.begin(), mentions.end());
    }
  }
  return used;
}

std::string text_by_script(const Source& source, const CodeTree& tree) {
  DefinedNames used = used_names(source);
  const auto definitions = configured_definitions(source.root);
  const auto [top, bottom] = verbatim_text(source.root);
  note_tested_names(bottom, used);
  const bool package = defines_package(source.root);
  const auto asked = asked_by_script(source.root, {used.begin(), used.end()});
  std::string text = top;
  for (const auto& [name, value] : definitions) text += "#undef " + name + "\n";
  for (const auto& name : used) {
    // What a source defines where there is no such header is the header's all the same.
    const bool always =
        name.starts_with("PACKAGE_") || (package && (name == "PACKAGE" || name == "VERSION")) || asked.contains(name);
    if (is_configured_name(name) && (always || !tree.macros().is_defined_here(name)) && !definitions.contains(name))
      text += "#undef " + name + "\n";
  }
  return text + bottom;
}

}  // namespace

std::map<std::string, HeaderTemplate> templates_by_script(const Source& source, const CodeTree& tree) {
  std::set<std::string> came;
  for (const auto& file : source.goes_along) came.insert(header_of_template(file));
  std::map<std::string, HeaderTemplate> templates;
  std::string text;
  for (const auto& header : configured_headers(source.root)) {
    const std::string name = text::lower(std::filesystem::path(header.name).filename().string());
    auto own = header.made_from.empty() ? Result<std::string>(fail({})) : read_text(source.root / header.made_from);
    // To write one, all sources are read: not for what came.
    if (!own && came.contains(name)) continue;
    if (!own && text.empty()) text = text_by_script(source, tree);
    templates[name] = own ? HeaderTemplate{header.made_from, std::move(*own)} : HeaderTemplate{header.script, text};
  }
  return templates;
}

}  // namespace fibula
