/// Names that a project's own build hands to the compiler, and this command does not.
#include "base/text.hpp"
#include "base/toml.hpp"
#include "diagnose/compile_scene.hpp"
#include "headers/header_folders.hpp"
#include "making/configure_script.hpp"
#include "project/handed_definitions.hpp"
#include "project/own_making.hpp"
#include "take/sources/template_header.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

class HandedOver : public CompileScene {
 public:
  using CompileScene::CompileScene;

  std::optional<Finding> explain(const Complaint& complaint) {
    const auto names = names_in(complaint);
    if (names.empty()) return std::nullopt;
    std::vector<std::pair<fs::path, std::vector<HandedDefinition>>> handed;
    for (const auto& root : folders_around(place(position_of(complaint.user).file)))
      handed.emplace_back(root, handed_definitions(root));
    const auto open = headers_left_open(command_);
    for (const auto& name : names) {
      if (auto left = left_open(complaint, name, open)) return left;
      for (const auto& [root, definitions] : handed) {
        for (const auto& one : definitions) {
          if (one.name == name) return by_makefile(complaint, one, root);
        }
        if (const auto where = definition_in_script(root, name)) return by_script(complaint, name, *where, root);
      }
    }
    return std::nullopt;
  }

 private:
  /// In a header that was made of a template, and waits for a value.
  std::optional<Finding> left_open(const Complaint& complaint, const std::string& name,
                                   const std::vector<fs::path>& headers) {
    for (const auto& file : headers) {
      const std::string text = read_text(file).value_or("");
      const auto open = names_left_open(text);
      if (std::find(open.begin(), open.end(), name) == open.end()) continue;
      const auto line =
          std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(text.find(" " + name)), '\n');
      Finding finding = begun(complaint, name, file);
      finding.because.push_back(
          fmt::format("{}:{} leaves its value open, as what it was made of does", shown(file), line + 1));
      finding.remedy = fmt::format("write its value there: #define {} …", name);
      return finding;
    }
    return std::nullopt;
  }

  /// What is not declared; a macro in the middle of something else is only known as a word that was not expected.
  static std::vector<std::string> names_in(const Complaint& complaint) {
    if (complaint.kind == Complaint::Kind::unknown_name) return {complaint.name};
    std::vector<std::string> names;
    for (const auto word : text::identifiers(complaint.name)) {
      if (word.size() > 2 && text::upper(word) == word) names.emplace_back(word);
    }
    return names;
  }

  /// From the file's own up to the one in which the command runs, or the project's.
  std::vector<fs::path> folders_around(const fs::path& file) const {
    const Project* project = evidence_.context().project;
    return folders_up_to(file.parent_path(), project == nullptr ? folder() : project->root());
  }

  Finding begun(const Complaint& complaint, const std::string& name, const fs::path& file) {
    const Position at = position_of(complaint.user);
    Finding finding = start("handed-by-build", name);
    finding.because.push_back(fmt::format("{}: {}", shown_position(at), said(complaint)));
    finding.culprits.push_back(shown(file));
    return finding;
  }

  Finding by_makefile(const Complaint& complaint, const HandedDefinition& one, const fs::path& root) {
    Finding finding = begun(complaint, one.name, root / one.file);
    finding.because.push_back(
        fmt::format("{}:{} hands it to the compiler: {}", shown(root / one.file), one.line, one.written));
    const std::string definition = one.definition.value_or(one.name + "=…");
    finding.remedy = fmt::format("define it as its own build does: definitions = [{}]", toml::quote(definition));
    if (one.definition) edit_command(finding, with_option("-D" + definition, "/D" + definition));
    return finding;
  }

  Finding by_script(const Complaint& complaint, const std::string& name, const ScriptPlace& where,
                    const fs::path& root) {
    Finding finding = begun(complaint, name, root / where.file);
    finding.because.push_back(
        fmt::format("{}:{}: its configure step defines it", shown(root / where.file), where.line));
    finding.remedy = fmt::format("run its configure step, or define it: definitions = [{}]", toml::quote(name + "=…"));
    return finding;
  }
};

}  // namespace

std::vector<fs::path> headers_left_open(const ToolCommand* command) {
  std::vector<fs::path> headers;
  if (command == nullptr) return headers;
  for (const auto& folder : command->include_folders) {
    if (!is_inside(command->folder, folder)) continue;
    for (const auto& name : files_directly_in(folder)) {
      if (is_header_name(name.string()) && leaves_open(read_text(folder / name).value_or("")))
        headers.push_back(folder / name);
    }
  }
  return headers;
}

std::optional<Finding> handed_over(const Complaint& complaint, const ToolCommand* command, Evidence& evidence) {
  return HandedOver(command, evidence).explain(complaint);
}

}  // namespace fibula
