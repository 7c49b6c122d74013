#include "fit/lane_plan.hpp"
#include "os/parallel.hpp"

namespace fibula {
namespace {

/// Links and closures: read files, each once for all lanes.
Result<Fit> finished(const Gathered& gathered, LanePlan& planned, const PlanOptions& options) {
  OwnCode own = options.own;
  for (const auto& [name, code] : gathered.state().elsewhere) own[name] = code;
  planned.refresh(own);
  planned.judge_includes();
  if (options.through == PlanThrough::compiling) return planned.take();
  for (const auto& output : gathered.project().outputs()) {
    if (output.kind == OutputKind::static_library) continue;
    if (auto link = planned.plan_link(output, own); !link) return pass(link);
  }
  if (options.through == PlanThrough::linking || planned.fit().verdict() == Verdict::misfit) return planned.take();
  if (auto followed = planned.follow(own); !followed) return pass(followed);
  return planned.take();
}

}  // namespace

Result<Fit> plan(const Gathered& gathered, const Lane& lane, const PlanOptions& options) {
  auto planned = LanePlan::open(gathered, lane);
  return planned ? finished(gathered, *planned, options) : pass(planned);
}

std::vector<Result<Fit>> plan_all(const Gathered& gathered, const std::vector<PlanOptions>& options) {
  const auto& lanes = gathered.lanes();
  std::vector<std::optional<Result<LanePlan>>> planned(lanes.size());
  each_in_parallel(lanes.size(), 2, [&](size_t i) { planned[i].emplace(LanePlan::open(gathered, lanes[i])); });
  std::vector<Result<Fit>> fits;
  for (size_t i = 0; i < lanes.size(); ++i) {
    auto& plan = *planned[i];
    fits.push_back(plan ? finished(gathered, *plan, i < options.size() ? options[i] : PlanOptions()) : pass(plan));
  }
  return fits;
}

}  // namespace fibula
