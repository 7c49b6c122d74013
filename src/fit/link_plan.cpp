#include "fit/link_plan.hpp"

#include "base/files.hpp"
#include "facts/name_traits.hpp"
#include "fit/line_builder.hpp"
#include "fit/link_rules.hpp"
#include "fit/mentions.hpp"
#include "fit/providers.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

class Planner {
 public:
  Planner(FileStore& files, ProviderStore& providers, const LinkQuestion& question)
      : files_(files), providers_(providers), q_(question) {}

  Result<LinkPlan> plan() {
    collect();
    find_program();
    auto line = build_line(files_, providers_,
                           {.toolchain = q_.toolchain,
                            .output = q_.output.name,
                            .objects = objects_,
                            .pending = pending_,
                            .stand_in = stand_in_,
                            .allow_unresolved = q_.output.kind != OutputKind::program},
                           candidates_, needy_libraries());
    if (!line) return pass(line);
    LinkPlan plan{.link = {q_.output.name, line->inputs, line->left_out}};
    auto misfits = judge_link(files_, providers_, *line,
                              {q_.toolchain, q_.shelf, q_.output.name, q_.output.kind == OutputKind::shared_library});
    if (!misfits) return pass(misfits);
    plan.misfits = std::move(*misfits);
    return plan;
  }

 private:
  void collect() {
    for (const auto& choice : q_.choices) {
      if (!choice.variant) continue;
      const std::string why = choice.chosen.required_by.empty()
                                  ? ""
                                  : fmt::format("{} requires {}", choice.chosen.required_by, choice.use.name);
      for (const auto& link : choice.variant->link)
        candidates_.push_back({.path = choice.card->root / link,
                               .library = choice.use.name,
                               .why = why,
                               .extra = choice.variant->link.size() > 1 && library_stem(link) != choice.use.name});
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
    const Target objects = object_target();
    stand_in_.defines = entry_names(identifiers, objects);
    for (const auto& candidate : candidates_) {
      if (auto file = files_.open(candidate.path, q_.toolchain.target))
        stand_in_.needs.merge(mentioned_symbols(**file, identifiers, objects));
    }
    for (const auto& name : stand_in_.defines) stand_in_.needs.erase(name);
  }

  /// What the lane's objects are: a PE lane's are COFF files.
  Target object_target() const {
    Target target = q_.toolchain.target;
    if (target.format == Format::pe) target.format = Format::coff;
    return target;
  }

  /// The functions with which programs begin, as far as the sources have them.
  static std::set<std::string> entry_names(const std::set<std::string, std::less<>>& identifiers,
                                           const Target& objects) {
    const std::string underscore = has_c_underscore(objects) ? "_" : "";
    std::set<std::string> names{underscore + "main"};
    if (objects.format != Format::coff) return names;
    const bool decorated = objects.arch == Arch::x86;
    for (const char* name : {"wmain", "WinMain", "wWinMain"}) {
      if (!identifiers.contains(name)) continue;
      const bool windows = std::string_view(name) != "wmain";
      names.insert(underscore + name + (decorated && windows ? "@16" : ""));
    }
    return names;
  }

  /// What the cards say of the libraries' needs.
  std::map<fs::path, NeedyLibrary> needy_libraries() const {
    std::map<fs::path, NeedyLibrary> needy;
    for (const auto& choice : q_.choices) {
      if (!choice.variant) continue;
      NeedyLibrary library{.system_inputs = choice.variant->system_inputs};
      for (const auto& variant : choice.card->variants) {
        if (variant.target == choice.variant->target)
          library.run_time_needs.insert(variant.needs.begin(), variant.needs.end());
      }
      for (const auto& link : choice.variant->link) needy[choice.card->root / link] = library;
    }
    return needy;
  }

  FileStore& files_;
  ProviderStore& providers_;
  const LinkQuestion& q_;
  std::vector<Candidate> candidates_;
  std::vector<const Output*> own_sources_of_;
  std::vector<fs::path> objects_;
  std::vector<fs::path> pending_;
  StandIn stand_in_;
};

}  // namespace

Result<LinkPlan> plan_link(FileStore& files, ProviderStore& providers, const LinkQuestion& question) {
  return Planner(files, providers, question).plan();
}

}  // namespace fibula
