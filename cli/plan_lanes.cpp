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
  std::vector<fibula::Fit> fits;
  for (const auto& lane : lanes) {
    auto own = fibula::own_code(*gathered, lane);
    if (!own) return fibula::pass(own);
    auto fit = fibula::plan(*gathered, lane, {.own = std::move(*own)});
    if (!fit) return fibula::pass(fit);
    fits.push_back(std::move(*fit));
  }
  return fits;
}

}  // namespace cli
