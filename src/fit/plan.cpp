#include "fit/lane_plan.hpp"

namespace fibula {

Result<Fit> plan(const Gathered& gathered, const Lane& lane, const PlanOptions& options) {
  auto planned = LanePlan::open(gathered, lane);
  if (!planned) return pass(planned);
  OwnCode own = options.own;
  for (const auto& [name, code] : gathered.state().elsewhere) own[name] = code;
  planned->refresh(own);
  planned->judge_includes();
  if (options.through == PlanThrough::compiling) return planned->take();
  for (const auto& output : gathered.project().outputs()) {
    if (output.kind == OutputKind::static_library) continue;
    if (auto link = planned->plan_link(output, own); !link) return pass(link);
  }
  if (options.through == PlanThrough::linking || planned->fit().verdict() == Verdict::misfit) return planned->take();
  if (auto followed = planned->follow(own); !followed) return pass(followed);
  return planned->take();
}

}  // namespace fibula
