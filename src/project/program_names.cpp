#include "project/program_names.hpp"

#include "base/text.hpp"
#include "making/configure_script.hpp"
#include "making/makefile_lines.hpp"
#include "os/files.hpp"
#include "take/naming.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// `ent-1.2debian` -> `ent`: a number with a dot behind a hyphen begins what is no name.
std::string without_number(const std::string& name) {
  for (size_t at = 1; at + 1 < name.size(); ++at) {
    if (name[at] != '-' && name[at] != '_') continue;
    const size_t end = std::min(name.find_first_not_of("0123456789", at + 1), name.size());
    if (end > at + 1 && end + 1 < name.size() && name[end] == '.' && text::is_digit(name[end + 1]))
      return name.substr(0, at);
  }
  return name;
}

/// `harbour-log` -> `harbour_log` (Automake's manual, "How derived variables are named").
std::string as_variable(std::string_view name) {
  std::string variable(name);
  for (char& c : variable) {
    if (!text::is_identifier_character(c) && c != '@') c = '_';
  }
  return variable;
}

class AutomakeFile {
 public:
  AutomakeFile(std::string folder, AutomakePrograms& into) : folder_(std::move(folder)), into_(into) {}

  void read(const std::string& text) {
    for (const auto& [line, number, recipe] : logical_lines(text)) {
      const size_t equals = line.find('=');
      if (equals == std::string::npos) continue;
      auto name = text::trim(std::string_view(line).substr(0, equals));
      if (name.ends_with('+')) name = text::trim(name.substr(0, name.size() - 1));
      const auto values = text::words(std::string_view(line).substr(equals + 1));
      if (name.ends_with("_PROGRAMS")) note_programs(name, values);
      if (name.ends_with("_SOURCES")) note_sources(name.substr(0, name.size() - 8), values);
    }
    for (const auto& [variable, program] : programs_) note_program(variable, program);
    for (const auto& source : others_) into_.only_tried.erase(source);
  }

 private:
  void note_programs(std::string_view list, const std::vector<std::string_view>& values) {
    for (const auto value : values) {
      const bool plain = value.find_first_of("$@") == std::string_view::npos;
      if (plain) programs_[as_variable(value)] = value;
      if (plain && list == "check_PROGRAMS") only_tried_.insert(as_variable(value));
    }
  }

  void note_sources(std::string_view variable, const std::vector<std::string_view>& values) {
    for (const std::string_view start : {"nodist_", "dist_"}) {
      if (variable.starts_with(start)) variable.remove_prefix(start.size());
    }
    for (const auto value : values) {
      if (value.find('$') == std::string_view::npos) sources_[std::string(variable)].push_back(in_folder(value));
    }
  }

  void note_program(const std::string& variable, const std::string& program) {
    const auto listed = sources_.find(variable);
    const auto& sources =
        listed != sources_.end() ? listed->second : std::vector<std::string>{in_folder(program + ".c")};
    for (const auto& source : sources) {
      into_.by_source.emplace(source, program);
      into_.sources[program].insert(source);
      (only_tried_.contains(variable) ? into_.only_tried : others_).insert(source);
    }
  }

  std::string in_folder(std::string_view file) const {
    return (std::filesystem::path(folder_) / file).lexically_normal().generic_string();
  }

  std::string folder_;
  AutomakePrograms& into_;
  std::map<std::string, std::string> programs_;  ///< by the name that its variables begin with
  std::set<std::string> only_tried_;             ///< of these names
  std::set<std::string> others_;                 ///< sources of the rest
  std::map<std::string, std::vector<std::string>> sources_;
};

}  // namespace

bool AutomakePrograms::is_of_others(const std::string& program, const std::string& source) const {
  const auto own = sources.find(program);
  return own != sources.end() && by_source.contains(source) && !own->second.contains(source);
}

std::string name_for_output(const std::filesystem::path& folder) {
  std::string name = folder.filename().string();
  // Letters of other scripts are bytes above ASCII.
  for (char& c : name) {
    const bool other_script = static_cast<unsigned char>(c) >= 0x80;
    if (!other_script && !text::is_identifier_character(c) && c != '-' && c != '+' && c != '.') c = '-';
  }
  while (name.starts_with('-') || name.starts_with('.')) name.erase(0, 1);
  while (name.ends_with('-')) name.pop_back();
  if (!text::is_utf8(name)) name.clear();
  return name.empty() ? "program" : name;
}

std::string name_of_tree(const std::filesystem::path& root) {
  const std::string folder = root.filename().string(), configured = configured_name(root);
  if (!configured.empty() && text::lower(folder).find(configured) != std::string::npos)
    return name_for_output(configured);
  const NameHint hint = split_name(folder);
  return name_for_output(hint.version.empty() ? without_number(folder) : hint.name);
}

std::string name_of_sole_program(const std::string& tree, const std::string& main, const AutomakePrograms& automake) {
  if (const auto known = automake.by_source.find(main); known != automake.by_source.end())
    return name_for_output(known->second);
  // `quay-RELEASE.2.1/quay.c`: what stands behind is no name.
  const std::string stem = std::filesystem::path(main).stem().string();
  const bool more = tree.size() > stem.size() && tree.starts_with(stem) &&
                    std::string_view("-_.").find(tree[stem.size()]) != std::string_view::npos &&
                    tree.find_first_of("0123456789", stem.size()) != std::string::npos;
  return more ? name_for_output(stem) : tree;
}

AutomakePrograms automake_programs(const std::filesystem::path& root, const std::vector<std::filesystem::path>& files) {
  AutomakePrograms programs;
  for (const auto& file : files) {
    if (file.filename() != "Makefile.am") continue;
    if (const auto text = read_text(root / file))
      AutomakeFile(file.parent_path().generic_string(), programs).read(*text);
  }
  return programs;
}

}  // namespace fibula
