#include "choose/beginning.hpp"

#include "card/source_form.hpp"
#include "choose/library_folders.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"
#include "project/edit.hpp"
#include "project/new_text.hpp"
#include "project/outline.hpp"
#include "project/program_names.hpp"
#include "project/source_kind.hpp"
#include "project/starter.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <algorithm>
#include <optional>
#include <set>
#include <span>

namespace fibula {
namespace {

/// Whether all that is compiled is C, as far as the patterns say.
bool is_only_c(const std::vector<Output>& outputs) {
  size_t patterns = 0;
  for (const auto& output : outputs) {
    patterns += output.sources.size();
    for (const auto& pattern : output.sources) {
      const auto kind = source_kind(pattern);
      if (kind != SourceKind::c && kind != SourceKind::assembly) return false;
    }
  }
  return patterns > 0;
}

bool compiles_cxx(const std::string& compiler) {
  return compiler.ends_with("++");
}

class Planner {
 public:
  Planner(const BeginRequest& request, fs::path root, bool only_what_is_there)
      : request_(request), root_(std::move(root)), only_what_is_there_(only_what_is_there) {}

  Result<Beginning> plan() {
    if (auto read = read_own(); !read) return pass(read);
    if (auto read = read_other(); !read) return pass(read);
    if (auto added = find_wanted_lanes(); !added) return pass(added);
    if (auto found = find_code(); !found) return pass(found);
    if (has_own_lanes_) own_lanes();
    plan_.text = whole_text();
    auto project = Project::from_text(plan_.text, root_);
    if (!project) return pass(project);
    plan_.begun.project = std::move(*project);
    return std::move(plan_);
  }

 private:
  /// A project that makes nothing yet is one to go on with.
  Result<void> read_own() {
    const fs::path file = root_ / "fibula.toml";
    if (stamp_of(file).there()) {
      auto text = read_text(file);
      if (!text) return pass(text);
      auto project = Project::from_text(*text, root_);
      if (!project) return pass(project);
      if (!project->outputs().empty() || !request_.like.empty())
        return fail({.code = Code::refused,
                     .what = "is there already: this folder is a project",
                     .file = file.string(),
                     .hint = "fibula attach NAME adds a library, fibula lanes --add NAME a lane"});
      set_up_ = std::move(*project);
      set_up_text_ = std::move(*text);
      return {};
    }
    const Stamp there = stamp_of(root_);
    if (there.there() && !there.is_folder())
      return fail({.code = Code::usage, .what = "is no folder", .file = root_.string(), .hint = "name a folder"});
    if (const auto above = Project::open(root_.parent_path()))
      remark(fmt::format("it lies inside of the project {}, which stays as it is", above->root().string()));
    return {};
  }

  Result<void> read_other() {
    if (request_.like.empty()) return {};
    const fs::path other = absolute_path(request_.like);
    const fs::path file = stamp_of(other).is_folder() ? other / "fibula.toml" : other;
    auto text = read_text(file);
    if (!text) return fail(other_is_none(text.error(), file));
    auto project = Project::from_text(*text, file.parent_path());
    if (!project) return pass(project);
    set_up_ = std::move(*project);
    set_up_text_ = with_paths_from(*text, set_up_->root(), root_);
    std::vector<std::string> places;
    for (const auto& place : set_up_->shelves())
      places.push_back(
          place.find("://") != std::string::npos ? place : fs::path(place).lexically_relative(root_).generic_string());
    if (!places.empty()) set_up_text_ = with_shelves(set_up_text_, places);
    for (const auto& use : set_up_->libraries()) {
      if (!use.folder.empty() && is_inside(set_up_->root(), use.folder))
        remark(fmt::format("{} is used where it lies, in the other project: {}", use.name, use.folder.string()));
    }
    return {};
  }

  static Error other_is_none(Error error, const fs::path& file) {
    error.file = file.string();
    error.hint = "name the folder of a project with --like";
    return error;
  }

  /// Libraries that lie here, and what the rest makes.
  Result<void> find_code() {
    if (stamp_of(root_).is_folder()) {
      auto libraries = library_folders(root_);
      for (const auto& error : libraries.refused)
        remark(fmt::format("{} was left alone: it {}", shown_from(root_, error.file), error.what));
      std::vector<std::string> skipped = libraries.shelves;
      for (auto& library : libraries.found) {
        skipped.push_back(library.folder);
        // Who attaches one library says which: the others that lie here may be what was taken onto the shelf.
        if (!only_what_is_there_ && !is_attached(library.name)) libraries_.push_back(std::move(library));
      }
      auto outlined = outline(root_, skipped, builds_for());
      if (!outlined) return pass(outlined);
      outputs_ = std::move(outlined->outputs);
      plan_.headers = std::move(outlined->headers);
      for (auto& one : outlined->remarks) remark(std::move(one));
    }
    if (outputs_.empty() && !only_what_is_there_) {
      plan_.first_source = compiles_cxx(usual_compiler(false)) ? "src/main.cpp" : "src/main.c";
      outputs_.push_back(
          {.name = name_of_tree(root_), .sources = {"src/**/*" + fs::path(plan_.first_source).extension().string()}});
      plan_.first_text = first_text();
      plan_.begun.first_source = root_ / plan_.first_source;
    }
    if (set_up_ && !set_up_->outputs().empty()) take_over(set_up_->outputs().front());
    return {};
  }

  bool is_attached(const std::string& name) const {
    return set_up_ && std::any_of(set_up_->libraries().begin(), set_up_->libraries().end(),
                                  [&](const LibraryUse& use) { return use.name == name; });
  }

  /// What the other project says of its code beside where it lies.
  void take_over(const Output& other) {
    for (auto& output : outputs_) {
      output.standard = other.standard;
      output.definitions = other.definitions;
      output.flags = other.flags;
    }
  }

  /// Those of the other project, and those that were asked for.
  Result<void> find_wanted_lanes() {
    for (const auto& lane : set_up_ ? set_up_->lanes() : std::vector<Lane>()) taken_.insert(lane.name);
    has_own_lanes_ = taken_.empty();
    if (has_own_lanes_) taken_ = {"desk-debug", "desk-release"};
    for (const auto& name : request_.lanes) {
      auto proposed = propose_lane_named(name, {}, taken_, request_.cache);
      if (!proposed) return pass(proposed);
      taken_.insert(proposed->lane.name);
      lanes_.push_back(proposed->lane);
      plan_.begun.lanes.push_back(std::move(*proposed));
    }
    return {};
  }

  void own_lanes() {
    const std::string compiler = usual_compiler(is_only_c(outputs_));
    if (!is_installed(compiler))
      remark("no compiler was found in PATH: install one, or correct compiler in fibula.toml");
    std::vector<Lane> own;
    for (const char* configuration : {"debug", "release"})
      own.push_back(
          {.name = fmt::format("desk-{}", configuration), .compiler = compiler, .configuration = configuration});
    lanes_.insert(lanes_.begin(), own.begin(), own.end());
  }

  /// As far as the compilers answer; of one that does not everything stays open.
  BuildsFor builds_for() const {
    std::vector<Question> questions;
    if (has_own_lanes_) questions.push_back({usual_compiler(false)});
    for (const auto& lane : set_up_ ? set_up_->lanes() : std::vector<Lane>())
      questions.push_back({lane.compiler, lane.flags});
    for (const auto& lane : lanes_) questions.push_back({lane.compiler, lane.flags});
    BuildsFor builds;
    for (const auto& toolchain : ask_all(questions, request_.cache)) {
      if (!toolchain) return {};
      builds.systems.insert(system_name(*toolchain));
      builds.archs.emplace(to_string(toolchain->target.arch));
    }
    return builds;
  }

  std::string whole_text() const {
    if (set_up_) {
      std::string text = with_outputs(set_up_text_, outputs_);
      for (const auto& lane : lanes_) text = with_lane(text, lane);
      for (const auto& library : libraries_) text = with_library(text, use_of(library));
      return text;
    }
    std::vector<std::string> blocks;
    for (const auto& output : outputs_) blocks.push_back(output_text(output));
    for (const auto& library : libraries_) blocks.push_back(library_text(use_of(library)));
    for (const auto& lane : lanes_) blocks.push_back(lane_text(lane));
    return fmt::format("{}", fmt::join(blocks, "\n"));
  }

  static LibraryUse use_of(const LibraryFolder& library) { return {.name = library.name, .folder = library.folder}; }

  std::string first_text() const {
    const std::string name = outputs_.front().name;
    return fmt::format("#include <stdio.h>\n\nint main(void) {{\n  puts(\"{} runs\");\n  return 0;\n}}\n", name);
  }

  void remark(std::string text) { plan_.begun.remarks.push_back(std::move(text)); }

  const BeginRequest& request_;
  fs::path root_;
  bool only_what_is_there_;
  std::optional<Project> set_up_;  ///< another project's, or what this folder has of one
  std::string set_up_text_;
  std::vector<LibraryFolder> libraries_;
  std::vector<Output> outputs_;
  std::vector<Lane> lanes_;
  std::set<std::string> taken_;
  bool has_own_lanes_ = false;  ///< debug and release of this machine
  Beginning plan_;
};

}  // namespace

Result<Beginning> plan_beginning(const BeginRequest& request, bool only_what_is_there) {
  return Planner(request, absolute_path(request.folder), only_what_is_there).plan();
}

}  // namespace fibula
