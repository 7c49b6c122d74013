#include "take/sources/values_in_vain.hpp"

#include "headers/branches.hpp"
#include "headers/declarations.hpp"
#include "making/makefile_definitions.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/sources/template_header.hpp"

#include <algorithm>
#include <map>

namespace fibula {
namespace {

/// What the tree itself defines somewhere, but for what templates ask about.
DefinedNames defined_in_texts(const std::vector<std::string>& texts) {
  DefinedNames names;
  for (const auto& text : texts) {
    for (auto& [name, body] : macro_bodies(text)) names.insert(std::move(name));
  }
  return names;
}

/// What these sources, the tree's headers, or what headers are made of define somewhere: programs beside them count for
/// nothing.
DefinedNames defined_for(const Source& source, const std::set<std::string>& sources) {
  DefinedNames names;
  const auto note = [&](const std::string& file) {
    note_defined_names(read_text(source.root / file).value_or(""), names);
  };
  for (const auto& file : sources) note(file);
  for (const auto* files : {&source.headers, &source.goes_along}) {
    for (const auto& file : *files) {
      if (role_of(file, source.own_folders) == Role::header || file.ends_with("in")) note(file);
    }
  }
  return names;
}

}  // namespace

std::set<std::string> values_in_vain(const Source& source, const std::set<std::string>& sources,
                                     const std::vector<SourceHeader>& made) {
  std::set<std::string> open;
  DefinedNames defined = names_of_linux();
  for (const auto& header : made) {
    for (auto& name : names_left_open(header.text)) open.insert(std::move(name));
    for (auto& name : names_left_undefined(header.text)) open.insert(std::move(name));
    for (auto& [name, body] : macro_bodies(header.text)) defined.insert(std::move(name));
  }
  if (open.empty()) return {};
  std::set<std::string> files = sources, folders;
  for (const auto& file : sources) folders.insert(fs::path(file).parent_path().string());
  files.insert(source.headers.begin(), source.headers.end());
  std::copy_if(source.goes_along.begin(), source.goes_along.end(), std::inserter(files, files.end()),
               [&](const std::string& file) {
                 return role_of(file) == Role::header && folders.contains(fs::path(file).parent_path().string());
               });
  std::vector<std::string> texts;
  for (const auto& file : files) texts.push_back(read_text(source.root / file).value_or(""));
  const auto own = defined_in_texts(texts);
  std::erase_if(open, [&](const std::string& name) { return own.contains(name); });
  std::set<std::string> used;
  for (const auto& text : texts) {
    const auto is_named = [&](const std::string& name) { return text.find(name) != std::string::npos; };
    if (std::none_of(open.begin(), open.end(), is_named)) continue;
    const auto mentions = names_in_source(text_where(text, defined)).mentions;
    std::set_intersection(open.begin(), open.end(), mentions.begin(), mentions.end(), std::inserter(used, used.end()));
  }
  return used;
}

std::set<std::string> handed_in_vain(const Source& source, const CodeTree& tree, const std::set<std::string>& sources) {
  std::set<std::string> folders, handed, used;
  for (const auto& file : sources) folders.insert(folder_of(file));
  const std::map<std::string, std::string> nothing;
  for (const auto& file : source.goes_along) {
    if (fs::path(file).filename() != "Makefile.am" || !folders.contains(folder_of(file))) continue;
    for (auto& one : definitions_in_makefile(source.root, file, nothing)) {
      if (tree.macros().is_never_defined(one.name)) handed.insert(std::move(one.name));
    }
  }
  for (const auto& file : handed.empty() ? std::set<std::string>() : sources) {
    const auto mentions =
        names_in_source(text_where(read_text(source.root / file).value_or(""), names_of_linux())).mentions;
    std::set_intersection(handed.begin(), handed.end(), mentions.begin(), mentions.end(),
                          std::inserter(used, used.end()));
  }
  return used;
}

bool says_error_in_vain(const Source& source, const CodeTree& tree, const std::set<std::string>& sources,
                        const std::function<std::vector<std::string>()>& definitions) {
  std::map<std::string, std::string> texts;  // of the few that say it
  for (const auto& file : sources) {
    auto text = read_text(source.root / file).value_or("");
    if (has_error(text)) texts.emplace(file, std::move(text));
  }
  if (texts.empty()) return false;
  DefinedNames defined = names_of_linux();
  for (const auto& one : definitions()) defined.insert(one.substr(0, one.find('=')));
  const DefinedNames known = defined_for(source, sources);
  // What a configure step finds out may be so or not.
  const auto is_open = [&](std::string_view name) { return known.contains(name) || name.starts_with("HAVE_"); };
  return std::any_of(texts.begin(), texts.end(), [&](const auto& entry) {
    const auto& [file, text] = entry;
    return lacks_macro(text, text_where(text, defined, is_open)) && tree.system_of(file).everywhere();
  });
}

}  // namespace fibula
