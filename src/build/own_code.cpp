#include <fibula/build.hpp>

#include "build/lane_build.hpp"
#include "os/files.hpp"

#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Finds out what earlier builds made that is still right: objects, then archives and links whose command would be the
/// same now, those that others use first.
class StillRight {
 public:
  StillRight(const Gathered& gathered, const Lane& lane, LanePlan& plan)
      : project_(gathered.project()),
        gathered_(gathered.state()),
        lane_(lane),
        plan_(plan),
        record_(record_file(project_, lane)),
        jobs_(project_, plan.fit()) {}

  Result<OwnCode> find() {
    for (const auto& output : project_.outputs()) {
      if (auto held = hold(output); !held) return fail(held.error());
    }
    return std::move(own_);
  }

 private:
  Result<void> hold(const Output& output) {
    if (!seen_.insert(output.name).second || output.made_elsewhere) return {};
    for (const auto& other : project_.outputs()) {
      const auto& uses = output.uses;
      if (!uses || std::find(uses->begin(), uses->end(), other.name) == uses->end()) continue;
      if (auto held = hold(other); !held) return held;
    }
    const auto sources = gathered_.sources_for(output, lane_);
    const bool all = std::all_of(sources.begin(), sources.end(),
                                 [&](const fs::path& source) { return is_as_made(jobs_.compile(output, source)); });
    auto objects = objects_of(gathered_, lane_, output);
    if (!all || objects.empty()) return {};
    own_[output.name].objects = objects;
    const auto product = product_as_made(output, objects);
    if (!product) return fail(product.error());
    own_[output.name].product = *product;
    return {};
  }

  bool is_as_made(const Job& job) { return record_.cause(job.product, command_digest(job)).empty(); }

  /// Empty where it was made from other inputs, or in another way, than it would be now.
  Result<fs::path> product_as_made(const Output& output, const std::vector<fs::path>& objects) {
    const fs::path product = project_.product_of(lane_, plan_.fit().toolchain, output);
    if (!record_.holds(product.string())) return fs::path();
    if (output.kind == OutputKind::static_library)
      return is_as_made(jobs_.archive(output, objects)) ? product : fs::path();
    if (plan_.is_refused(output)) return fs::path();
    const auto works = plan_.plan_link(output, own_);
    if (!works) return fail(works.error());
    return *works && is_as_made(jobs_.link(output, objects)) ? product : fs::path();
  }

  const Project& project_;
  Gathered::State& gathered_;
  const Lane& lane_;
  LanePlan& plan_;
  BuildRecord record_;
  LaneJobs jobs_;
  std::set<std::string> seen_;
  OwnCode own_;
};

}  // namespace

Result<OwnCode> own_code(const Gathered& gathered, const Lane& lane) {
  if (!stamp_of(record_file(gathered.project(), lane)).is_file()) return OwnCode();  // nothing was built yet
  auto plan = LanePlan::open(gathered, lane);
  if (!plan) return fail(plan.error());
  return StillRight(gathered, lane, *plan).find();
}

}  // namespace fibula
