#include <fibula/attach.hpp>
#include <fibula/project_change.hpp>

#include "base/digest.hpp"
#include "base/quoting.hpp"
#include "base/text.hpp"
#include "base/toml.hpp"
#include "choose/taken_back.hpp"
#include "os/folder.hpp"
#include "project/edit.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>

namespace fibula {
namespace {

constexpr TakingBack mending{".fibula/before-changes", "nothing was changed that could be taken back",
                             "was changed since", "fibula explain --apply changes files"};

using ChangeKind = ProjectChange::Kind;

bool is_of_key(const ProjectChange& change) {
  return change.kind == ChangeKind::set || change.kind == ChangeKind::add || change.kind == ChangeKind::add_to_library;
}

/// The files that changes make, before any of them is written.
class Draft {
 public:
  explicit Draft(const Project& project) : project_(project) {}

  Result<void> add(const ProjectChange& change) {
    if (change.kind == ChangeKind::attach) return touched(project_file());
    return is_of_key(change) ? change_key(change) : change_line(change);
  }

  /// In order, the texts of those that only an `attach` changes as they are.
  const std::map<std::string, std::string>& texts() const { return texts_; }

 private:
  std::string project_file() const { return project_.file().filename().string(); }

  Result<void> touched(const std::string& inside) {
    if (texts_.contains(inside)) return {};
    auto text = read_text(project_.root() / inside);
    if (!text) return pass(text);
    texts_[inside] = std::move(*text);
    return {};
  }

  /// Whether the project says so already.
  bool is_made(const ProjectChange& change) const {
    if (change.kind == ChangeKind::add_to_library) {
      return std::any_of(project_.libraries().begin(), project_.libraries().end(), [&](const LibraryUse& use) {
        return use.name == change.name &&
               std::find(use.definitions.begin(), use.definitions.end(), change.value) != use.definitions.end();
      });
    }
    for (const auto& output : project_.outputs()) {
      if (output.name != change.name) continue;
      if (change.kind == ChangeKind::set) return change.key == "standard" && output.standard == change.value;
      const auto& list = change.key == "headers"               ? output.headers
                         : change.key == "uses" && output.uses ? *output.uses
                                                               : output.definitions;
      return std::find(list.begin(), list.end(), change.value) != list.end();
    }
    return false;
  }

  static std::string changed(std::string_view text, const ProjectChange& change) {
    switch (change.kind) {
      case ChangeKind::set: return with_output_value(text, change.name, change.key, change.value);
      case ChangeKind::add: return with_output_item(text, change.name, change.key, change.value);
      default: return with_library_item(text, change.name, change.key, change.value);
    }
  }

  Result<void> change_key(const ProjectChange& change) {
    if (is_made(change))
      return fail({.code = Code::refused,
                   .what = fmt::format("says so already: {}", to_string(change, project_.root())),
                   .file = project_.file().string(),
                   .hint = "fibula build tries it"});
    if (auto read = touched(project_file()); !read) return read;
    std::string& text = texts_[project_file()];
    std::string after = changed(text, change);
    // An unusual layout is a person's to edit.
    if (after == text || !Project::from_text(after, project_.root()))
      return fail({.code = Code::refused,
                   .what = "is laid out in a way that is not edited here",
                   .file = project_.file().string(),
                   .hint = to_string(change, project_.root())});
    text = std::move(after);
    return {};
  }

  Result<void> change_line(const ProjectChange& change) {
    const std::string inside = shown_from(project_.root(), change.file);
    if (!is_inside(project_.root(), change.file))
      return fail({.code = Code::refused,
                   .what = "lies outside of the project and is left as it is",
                   .file = change.file.string(),
                   .hint = to_string(change, project_.root())});
    if (auto read = touched(inside); !read) return read;
    std::string& text = texts_[inside];
    std::vector<std::string> lines;
    for (const auto line : text::split(text, '\n')) lines.emplace_back(line);
    const bool there = change.line > 0 && change.line <= lines.size();
    const bool windows = there && lines[change.line - 1].ends_with('\r');
    if (!there || lines[change.line - 1] != change.before + (windows ? "\r" : ""))
      return fail({.code = Code::refused,
                   .what = "is not as it was any more",
                   .file = change.file.string(),
                   .line = change.line,
                   .hint = "build again and have that explained"});
    lines[change.line - 1] = change.after + (windows ? "\r" : "");
    text = text::join(lines, "\n");
    return {};
  }

  const Project& project_;
  std::map<std::string, std::string> texts_;  ///< by path inside the project
};

Result<void> write_all(const Project& project, const Shelf& shelf, const Draft& draft,
                       const std::vector<ProjectChange>& changes) {
  for (const auto& [inside, text] : draft.texts()) {
    if (auto written = write_if_changed_in(project.root(), inside, text, Flush::now); !written) return pass(written);
  }
  for (const auto& change : changes) {
    if (change.kind != ChangeKind::attach) continue;
    if (auto attached = attach(project.root(), shelf, change.name, {}); !attached) return pass(attached);
  }
  return {};
}

constexpr const char* lock_name = "fibula.lock";

/// What the files are now, after the change. The lock follows from the project with the next build.
std::vector<KeptFile> as_left(const fs::path& root, std::vector<KeptFile> files) {
  for (auto& file : files) {
    if (file.inside == lock_name) continue;
    const auto text = read_text(root / file.inside);
    if (text) file.after = sha256(*text);
  }
  return files;
}

}  // namespace

std::string to_string(const ProjectChange& change, const fs::path& root) {
  switch (change.kind) {
    case ChangeKind::attach: return "fibula attach " + shell_word(change.name);
    case ChangeKind::line:
      return fmt::format("{}:{}: {}", shown_from(root, change.file), change.line, text::trim(change.after));
    case ChangeKind::set:
      return fmt::format("in fibula.toml, output {}: {} = {}", change.name, change.key, toml::quote(change.value));
    case ChangeKind::add:
      return fmt::format("in fibula.toml, output {}: add {} to {}", change.name, toml::quote(change.value), change.key);
    case ChangeKind::add_to_library:
      return fmt::format("in fibula.toml, library {}: add {} to {}", change.name, toml::quote(change.value),
                         change.key);
  }
  return {};
}

Result<void> make_changes(const fs::path& folder, const Shelf& shelf, const std::vector<ProjectChange>& changes) {
  const auto project = Project::open(folder);
  if (!project) return fail(project.error());
  Draft draft(*project);
  for (const auto& change : changes) {
    if (auto added = draft.add(change); !added) return added;
  }
  std::vector<KeptFile> files;
  for (const auto& [inside, text] : draft.texts()) files.push_back({inside});
  if (draft.texts().contains(project->file().filename().string())) files.push_back({lock_name});
  if (auto kept = keep_files(project->root(), mending, files); !kept) return kept;
  auto written = write_all(*project, shelf, draft, changes);
  // Also where only a part was written: that part is taken back.
  auto sealed = seal(project->root(), mending, as_left(project->root(), files));
  if (written) return sealed;
  if (sealed) static_cast<void>(take_back(project->root(), mending));
  return written;
}

Result<std::vector<fs::path>> undo_changes(const fs::path& folder) {
  const auto project = Project::open(folder);
  if (!project) return fail(project.error());
  return take_back(project->root(), mending);
}

}  // namespace fibula
