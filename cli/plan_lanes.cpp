#include "plan_lanes.hpp"

#include "print.hpp"

#include <fibula/build.hpp>

namespace cli {

fibula::Result<std::vector<fibula::Fit>> plan_lanes(const fibula::Project& project,
                                                    const std::vector<fibula::Lane>& lanes, const fibula::Shelf& shelf,
                                                    const fibula::GatherOptions& wishes) {
  const SlowNotice notice("asking compilers, reading headers, rehearsing links …");
  const auto gathered = fibula::gather(project, lanes, shelf, wishes);
  if (!gathered) return fibula::fail(gathered.error());
  std::vector<fibula::PlanOptions> options;
  for (const auto& lane : lanes) {
    auto own = fibula::own_code(*gathered, lane);
    if (!own) return fibula::pass(own);
    options.push_back({.own = std::move(*own)});
  }
  std::vector<fibula::Fit> fits;
  for (auto& fit : fibula::plan_all(*gathered, options)) {
    if (!fit) return fibula::pass(fit);
    fits.push_back(std::move(*fit));
  }
  return fits;
}

}  // namespace cli
