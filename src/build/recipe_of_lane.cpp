#include "build/recipe_of_lane.hpp"

#include "base/digest.hpp"

#include <algorithm>

namespace fibula {
namespace {

bool rests_on_sources(const GatheredLane& lane) {
  return std::any_of(lane.headers.begin(), lane.headers.end(),
                     [](const auto& named) { return !named.second.unmatched.empty(); });
}

bool rests_on_sizes(const Fit& fit) {
  return std::any_of(fit.links.begin(), fit.links.end(), [](const OutputLink& link) {
    return !link.settings.script.empty() || !link.settings.sections.empty();
  });
}

bool is_repeatable(const Gathered::State& gathered, const Fit& fit) {
  const GatheredLane* lane = gathered.lane_named(fit.lane.name);
  const auto& outputs = gathered.project.outputs();
  return fit.toolchain.target.format == Format::elf && fit.link_misfits.empty() && lane != nullptr &&
         !rests_on_sources(*lane) && !rests_on_sizes(fit) &&
         std::none_of(outputs.begin(), outputs.end(), [](const Output& output) { return output.made_elsewhere; });
}

/// One of each kind of source; false where one cannot be told by what it prints beside its object.
bool add_compiles(const Gathered::State& gathered, const Fit& fit, LaneJobs& jobs, Recipe& recipe) {
  for (const auto& output : gathered.project.outputs()) {
    Recipe::Compiles compiles{.folder = fit.folder.string() + "/objects/" + output.name + "/"};
    for (const auto& source : gathered.sources_for(output, fit.lane)) {
      if (compiles.by_ending.contains(source.extension().string())) continue;
      Job job = jobs.compile(output, source);
      if (job.in_place) return false;
      compiles.by_ending.emplace(source.extension().string(), for_any_source(std::move(job), source.string()));
    }
    recipe.compiles.push_back(std::move(compiles));
  }
  return true;
}

/// A name that one file has to itself may come and go with it; those of other lanes do not count.
std::vector<uint64_t> names_of_several(FileStore& files, const Project& project, const Fit& fit) {
  const std::string made = (project.root() / ".fibula").string() + "/", own = fit.folder.string() + "/";
  const auto several = files.names_of_several([&](const std::filesystem::path& file) {
    return file.native().starts_with(own) || !file.native().starts_with(made);
  });
  std::vector<uint64_t> digests;
  for (NameId id = 0; id < several.size(); ++id) {
    if (several[id]) digests.push_back(quick_digest(files.names().text(id)));
  }
  std::sort(digests.begin(), digests.end());
  return digests;
}

}  // namespace

std::optional<Recipe> recipe_of(Gathered::State& gathered, const Fit& fit, LaneJobs& jobs, std::vector<Job> others) {
  if (!is_repeatable(gathered, fit)) return std::nullopt;
  if (std::any_of(others.begin(), others.end(), [](const Job& job) { return job.in_place; })) return std::nullopt;
  Recipe recipe;
  if (!add_compiles(gathered, fit, jobs, recipe)) return std::nullopt;
  recipe.others = std::move(others);
  recipe.names = names_of_several(gathered.files, gathered.project, fit);
  return recipe;
}

}  // namespace fibula
