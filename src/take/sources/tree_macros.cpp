#include "take/sources/tree_macros.hpp"

#include "base/text.hpp"
#include "headers/branches.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/sources/template_header.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// Adds who calls one of them, directly or through others.
void add_callers(std::set<std::string>& names, const std::map<std::string, std::set<std::string>>& calls) {
  for (bool more = true; more;) {
    more = false;
    for (const auto& [caller, called] : calls) {
      const bool is_one =
          std::any_of(called.begin(), called.end(), [&](const std::string& name) { return names.contains(name); });
      more = (is_one && names.insert(caller).second) || more;
    }
  }
}

}  // namespace

TreeMacros::TreeMacros(const Source& source, DefinedNames handed) : root_(source.root), handed_(std::move(handed)) {
  std::map<std::string, std::set<std::string>> calls;  // by a macro with arguments
  std::set<std::string> seen;
  for (const auto* files : {&source.headers, &source.code, &source.goes_along}) {
    for (const auto& file : *files) {
      const bool is_code =
          files == &source.code || role_of(file, source.own_folders) == Role::header || file.ends_with("in");
      if (!is_code || !seen.insert(file).second) continue;
      const std::string text = read_text(root_ / file).value_or("");
      note_defined_names(text, header_of_template(file).empty() ? macros_ : asked_);
      for (const auto& [name, body] : macro_bodies(text)) {
        macros_.insert(name);
        const auto words = text::identifiers(body);
        const bool pastes = body.find("##") != std::string::npos;
        if (pastes) pasted_.insert(words.begin(), words.end());
        if (!body.starts_with('(')) continue;
        if (pastes) pasting_.insert(name);
        calls[name].insert(words.begin(), words.end());
      }
      if (role_of(file, source.own_folders) == Role::header) header_files_.push_back(file);
    }
  }
  add_callers(pasting_, calls);
  note_all_expansions();
}

/// What a header says only where somebody asks for it does not stand for anything: that takes all of the macros.
void TreeMacros::note_all_expansions() {
  expansions_.clear();
  const auto never = [&](std::string_view name) { return is_never_defined(name); };
  for (const auto& file : header_files_)
    note_expansions(branches_without(read_text(root_ / file).value_or(""), never), expansions_);
}

bool TreeMacros::may_be_pasted(const std::string& name) const {
  constexpr size_t telling = 3;
  return std::any_of(pasted_.begin(), pasted_.end(), [&](const std::string& part) {
    return part.size() >= telling && part.size() < name.size() && (name.starts_with(part) || name.ends_with(part));
  });
}

bool TreeMacros::is_usual_prefix(const std::string& word) const {
  constexpr ptrdiff_t many = 20;
  const auto begins = [&](const std::string& macro) { return macro.starts_with(word + "_"); };
  return !word.empty() &&
         std::count_if(macros_.begin(), macros_.end(), begins) + std::count_if(asked_.begin(), asked_.end(), begins) >=
             many;
}

bool TreeMacros::is_never_defined(std::string_view name) const {
  static const DefinedNames of_builds{"NDEBUG", "DEBUG", "HAVE_CONFIG_H", "UNICODE", "linux", "unix", "i386"};
  return !name.starts_with('_') && !name.starts_with("WIN") && !name.starts_with("TARGET_") &&
         !of_builds.contains(name) && !macros_.contains(name) && !handed_.contains(name) &&
         (!asked_.contains(name) || undefined_.contains(name));
}

std::set<std::string> TreeMacros::with_expansions(std::set<std::string> names) const {
  std::vector<std::string> open(names.begin(), names.end());
  while (!open.empty()) {
    const auto found = expansions_.find(open.back());
    open.pop_back();
    if (found == expansions_.end()) continue;
    for (const auto& inner : found->second) {
      if (names.insert(inner).second) open.push_back(inner);
    }
  }
  return names;
}

bool TreeMacros::is_open(std::string_view name) const {
  return macros_.contains(name) || ((asked_.contains(name) || name.starts_with("HAVE_")) && !undefined_.contains(name));
}

void TreeMacros::hand(const DefinedNames& macros) {
  handed_.insert(macros.begin(), macros.end());
}

void TreeMacros::leave_undefined(const DefinedNames& macros) {
  undefined_.insert(macros.begin(), macros.end());
  note_all_expansions();
}

}  // namespace fibula
