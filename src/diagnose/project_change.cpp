#include "diagnose/project_change.hpp"

#include "fit/gathered.hpp"
#include "os/files.hpp"

#include <algorithm>
#include <optional>

namespace fibula {
namespace {

bool is_standard(const std::string& word) {
  return word.starts_with("-std=") || word.starts_with("/std:");
}

/// What stands behind an option that is written with its value in one word.
std::optional<std::string> value_of(const std::string& word, char option) {
  if (word.size() < 3 || (word[0] != '-' && word[0] != '/') || word[1] != option) return std::nullopt;
  return word.substr(2);
}

std::optional<ProjectChange> change_for(const Project& project, const ToolCommand& command, const Output& output,
                                        const std::string& word) {
  if (is_standard(word))
    return ProjectChange{
        .kind = ProjectChange::Kind::set, .name = output.name, .key = "standard", .value = word.substr(5)};
  if (auto definition = value_of(word, 'D'))
    return ProjectChange{
        .kind = ProjectChange::Kind::add, .name = output.name, .key = "definitions", .value = std::move(*definition)};
  if (const auto folder = value_of(word, 'I')) {
    const fs::path path = (command.folder / *folder).lexically_normal();
    if (is_inside(project.root(), path))
      return ProjectChange{.kind = ProjectChange::Kind::add,
                           .name = output.name,
                           .key = "headers",
                           .value = shown_from(project.root(), path)};
  }
  return std::nullopt;
}

/// A library's sources get definitions from the project, and nothing else.
std::optional<ProjectChange> change_for(const std::string& library, const std::string& word) {
  auto definition = value_of(word, 'D');
  if (!definition) return std::nullopt;
  return ProjectChange{.kind = ProjectChange::Kind::add_to_library,
                       .name = library,
                       .key = "definitions",
                       .value = std::move(*definition)};
}

bool has_source(const Project& project, const Output& output, const fs::path& source) {
  const auto sources = project.sources(output);
  return std::binary_search(sources.begin(), sources.end(), source);
}

}  // namespace

const Output* output_of(const Project& project, const ToolCommand& command) {
  if (command.sources.empty()) return nullptr;
  const fs::path& source = command.sources.front().path;
  const fs::path object = command.output.empty() ? fs::path() : (command.folder / command.output).lexically_normal();
  const Output* first = nullptr;
  for (const auto& output : project.outputs()) {
    const auto is_its_object = [&](const Lane& lane) { return project.object_of(lane, output, source) == object; };
    if (std::any_of(project.lanes().begin(), project.lanes().end(), is_its_object)) return &output;
    if (first == nullptr && has_source(project, output, source)) first = &output;
  }
  return first;
}

std::string library_compiled_by(const Project& project, const ToolCommand& command) {
  const fs::path object = command.output.empty() ? fs::path() : (command.folder / command.output).lexically_normal();
  for (const auto& lane : project.lanes()) {
    const fs::path store = own_store_of(project, lane);
    if (!object.empty() && is_inside(store, object)) return object.lexically_relative(store).begin()->string();
  }
  return {};
}

std::vector<ProjectChange> changes_for(const Project& project, const ToolCommand& before, const Words& after) {
  const std::string library = library_compiled_by(project, before);
  const Output* output = library.empty() ? output_of(project, before) : nullptr;
  if (output == nullptr && library.empty()) return {};
  std::vector<ProjectChange> changes;
  for (const auto& hunk : hunks(before.words, after)) {
    // Only a standard takes the place of another one.
    if (!std::all_of(hunk.old.begin(), hunk.old.end(), is_standard)) return {};
    for (const auto& word : hunk.fresh) {
      auto change = output != nullptr ? change_for(project, before, *output, word) : change_for(library, word);
      if (!change) return {};
      changes.push_back(std::move(*change));
    }
  }
  return changes;
}

}  // namespace fibula
