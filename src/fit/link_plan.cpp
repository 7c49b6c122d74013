#include "fit/link_plan.hpp"

#include "base/files.hpp"
#include "base/text.hpp"
#include "fit/link_rules.hpp"
#include "fit/mentions.hpp"
#include "fit/order.hpp"
#include "fit/providers.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// A library file on its way to the line, and whose it is.
struct Candidate {
  fs::path path;
  std::string library;
};

class Planner {
 public:
  Planner(FileStore& files, const LinkQuestion& question) : files_(files), q_(question) {}

  Result<LinkPlan> plan() {
    collect();
    if (q_.toolchain.target.format != Format::elf) return as_listed();
    find_program();
    if (auto ordered = order(); !ordered) return pass(ordered);
    auto rehearsal = rehearse_line();
    if (!rehearsal) return pass(rehearsal);
    if (auto completed = add_system_inputs(*rehearsal); !completed) return pass(completed);
    LinkPlan plan{.link = {.output = q_.output.name, .inputs = inputs_}};
    auto misfits = judge_link(files_, *rehearsal, {inputs_, q_.toolchain, q_.shelf, q_.output.name});
    if (!misfits) return pass(misfits);
    plan.misfits = std::move(*misfits);
    return plan;
  }

 private:
  void collect() {
    for (const auto& choice : q_.choices) {
      if (!choice.variant) continue;
      for (const auto& link : choice.variant->link) candidates_.push_back({choice.card->root / link, choice.use.name});
    }
    // Static libraries that the project makes itself take part once they are built.
    for (const auto& output : q_.project.outputs()) {
      const fs::path product = q_.project.product_of(q_.lane, q_.toolchain, output);
      std::error_code ignored;
      const bool used = q_.output.uses &&
                        std::find(q_.output.uses->begin(), q_.output.uses->end(), output.name) != q_.output.uses->end();
      if (!used || output.kind == OutputKind::program) continue;
      own_sources_of_.push_back(&output);
      if (fs::exists(product, ignored)) {
        candidates_.push_back({product, output.name});
      } else {
        add_pending(output);
      }
    }
  }

  /// Other formats' links are not rehearsed: the inputs keep the order in which they were attached.
  LinkPlan as_listed() const {
    LinkPlan plan{.link = {.output = q_.output.name}};
    for (const auto& [path, library] : candidates_) {
      plan.link.inputs.push_back({.path = path,
                                  .arguments = {path.string()},
                                  .library = library,
                                  .why = fmt::format("{} is used by {}", library, q_.output.name)});
    }
    plan.misfits.push_back({.rule = "undefined",
                            .verdict = Verdict::unknown,
                            .subject = q_.output.name,
                            .library = q_.output.name,
                            .evidence = {fmt::format("links of {} files are not rehearsed: what is undefined, and the "
                                                     "order of the inputs, only the linker will tell",
                                                     to_string(q_.toolchain.target.format))}});
    return plan;
  }

  /// A library of the project that is compiled and not yet linked: what its objects define will be there.
  void add_pending(const Output& output) {
    for (const auto& source : q_.project.sources(output)) {
      std::error_code ignored;
      const fs::path object = q_.project.object_of(q_.lane, output, source);
      if (fs::exists(object, ignored)) pending_.push_back(object);
    }
  }

  /// The program's objects when all of them are there, else what its sources mention.
  void find_program() {
    auto sources = q_.project.sources(q_.output);
    for (const auto& source : sources) objects_.push_back(q_.project.object_of(q_.lane, q_.output, source));
    const bool built = !objects_.empty() && std::all_of(objects_.begin(), objects_.end(), [](const fs::path& object) {
      std::error_code ignored;
      return fs::exists(object, ignored);
    });
    if (built) return;
    objects_.clear();
    for (const auto* output : own_sources_of_) {
      for (auto& source : q_.project.sources(*output)) sources.push_back(std::move(source));
    }
    const auto identifiers = identifiers_in_files(sources);
    stand_in_.defines = {"main"};
    for (const auto& candidate : candidates_) {
      if (auto file = files_.open(candidate.path)) stand_in_.needs.merge(mentioned_symbols(**file, identifiers));
    }
    stand_in_.needs.erase("main");
  }

  Result<bool> order() {
    std::vector<LinkFile*> libraries;
    for (const auto& candidate : candidates_) {
      auto file = files_.open(candidate.path);
      if (!file) return pass(file);
      libraries.push_back(*file);
    }
    auto ordered = derive_order(files_, objects_, stand_in_, libraries);
    if (!ordered) return pass(ordered);
    int groups = 0;
    for (const auto& place : *ordered) {
      const int group = place.size() > 1 ? ++groups : 0;
      for (const size_t i : place) {
        inputs_.push_back({.path = candidates_[i].path,
                           .arguments = arguments(*libraries[i], candidates_[i].path),
                           .library = candidates_[i].library,
                           .why = why(place, i),
                           .group = group});
      }
    }
    return true;
  }

  /// By its path; a shared library without a soname would be recorded under that path, so it is given by folder and
  /// name.
  static std::vector<std::string> arguments(const LinkFile& file, const fs::path& path) {
    const bool nameless = file.is_shared() && !file.image().soname;
    if (!nameless) return {path.string()};
    return {"-L" + path.parent_path().string(), "-l:" + path.filename().string()};
  }

  std::string why(const std::vector<size_t>& place, size_t index) const {
    const std::string own = fmt::format("{} is used by {}", candidates_[index].library, q_.output.name);
    if (place.size() < 2) return own;
    std::vector<std::string> others;
    for (const size_t other : place) {
      if (other != index) others.push_back(candidates_[other].path.filename().string());
    }
    return fmt::format("{}; needs {} and is needed by it", own, text::join(others, ", "));
  }

  Result<Rehearsal> rehearse_line() {
    std::vector<LinkStep> steps;
    for (const auto& object : objects_) steps.push_back({LinkStep::Kind::file, object.string()});
    for (const auto& object : pending_) steps.push_back({LinkStep::Kind::file, object.string()});
    for (auto& step : steps_of(inputs_)) steps.push_back(std::move(step));
    LinkLine line = whole_line(q_.toolchain, steps);
    // The libraries' own folders are told to the linker for the needs of shared ones (-rpath-link).
    for (const auto& input : inputs_) line.search.push_back(input.path.parent_path());
    return rehearse(files_, line,
                    {.stand_in = objects_.empty() ? &stand_in_ : nullptr,
                     .allow_unresolved = q_.output.kind != OutputKind::program});
  }

  /// What is left over may be in the libraries that the system keeps beside its C library: the first of them that helps
  /// is added, until none does.
  Result<bool> add_system_inputs(Rehearsal& rehearsal) {
    for (const auto& name : system_inputs()) {
      if (rehearsal.unresolved.empty()) return true;
      const auto path = find_library(q_.toolchain.library_directories, name, q_.toolchain.static_link);
      if (!path) continue;
      for (const auto& missing : rehearsal.unresolved) {
        auto found = defines(files_, *path, missing.symbol);
        if (!found) return pass(found);
        if (!*found) continue;
        inputs_.push_back({.path = *path,
                           .arguments = {"-l" + name},
                           .library = "system",
                           .why = fmt::format("defines {}, which {} needs", missing.symbol, missing.needed_by)});
        auto again = rehearse_line();
        if (!again) return pass(again);
        rehearsal = std::move(*again);
        break;
      }
    }
    return true;
  }

  /// Known needs from the cards first, then the companions of the C library.
  std::vector<std::string> system_inputs() const {
    std::vector<std::string> names;
    for (const auto& choice : q_.choices) {
      if (choice.variant)
        names.insert(names.end(), choice.variant->system_inputs.begin(), choice.variant->system_inputs.end());
    }
    for (auto& name : companions_of_c_library()) names.push_back(std::move(name));
    return names;
  }

  FileStore& files_;
  const LinkQuestion& q_;
  std::vector<Candidate> candidates_;
  std::vector<const Output*> own_sources_of_;
  std::vector<fs::path> objects_;
  std::vector<fs::path> pending_;
  StandIn stand_in_;
  std::vector<LinkInput> inputs_;
};

}  // namespace

Result<LinkPlan> plan_link(FileStore& files, const LinkQuestion& question) {
  return Planner(files, question).plan();
}

}  // namespace fibula
