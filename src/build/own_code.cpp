#include <fibula/build.hpp>

#include "build/lane_build.hpp"
#include "os/files.hpp"

#include <algorithm>

namespace fibula {

Result<OwnCode> own_code(const Gathered& gathered, const Lane& lane) {
  const Project& project = gathered.project();
  OwnCode own;
  if (!stamp_of(record_file(project, lane)).is_file()) return own;  // nothing was built yet
  auto plan = LanePlan::open(gathered, lane);
  if (!plan) return fail(plan.error());
  BuildRecord record(record_file(project, lane));
  LaneJobs jobs(project, plan->fit());
  for (const auto& output : project.outputs()) {
    const auto& sources = gathered.state().sources.at(output.name);
    const bool all = std::all_of(sources.begin(), sources.end(), [&](const fs::path& source) {
      const Job job = jobs.compile(output, source);
      return record.cause(job.product, command_digest(job)).empty();
    });
    OwnOutput held{.objects = objects_of(gathered.state(), lane, output), .product = {}};
    if (!all || held.objects.empty()) continue;
    fs::path product = project.product_of(lane, plan->fit().toolchain, output);
    if (record.holds(product.string())) held.product = std::move(product);
    own.emplace(output.name, std::move(held));
  }
  return own;
}

}  // namespace fibula
