#include <fibula/fit.hpp>
#include <fibula/gather.hpp>

#include "match/match.hpp"

#include <algorithm>

namespace fibula {
namespace {

template <class Part>
const Part* part_of(const std::vector<Part>& parts, const std::string& output) {
  const auto is_it = [&](const Part& part) { return output.empty() || part.output == output; };
  const auto found = std::find_if(parts.begin(), parts.end(), is_it);
  return found == parts.end() ? nullptr : &*found;
}

}  // namespace

std::vector<Misfit> Fit::misfits() const {
  std::vector<Misfit> all = compile_misfits;
  all.insert(all.end(), link_misfits.begin(), link_misfits.end());
  all.insert(all.end(), run_misfits.begin(), run_misfits.end());
  for (const auto& library : libraries) all.insert(all.end(), library.misfits.begin(), library.misfits.end());
  std::stable_sort(all.begin(), all.end(), [](const Misfit& a, const Misfit& b) { return a.verdict > b.verdict; });
  return all;
}

Verdict Fit::verdict() const {
  Verdict verdict = std::max({worst(compile_misfits), worst(link_misfits), worst(run_misfits)});
  for (const auto& library : libraries) verdict = std::max(verdict, library.verdict);
  return verdict;
}

const OutputCompile* Fit::compile(const std::string& output) const {
  return part_of(compiles, output);
}

const OutputLink* Fit::link(const std::string& output) const {
  return part_of(links, output);
}

std::vector<Result<Fit>> fit_all(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf,
                                 const FitOptions& options) {
  const auto gathered = gather(project, lanes, shelf, {.anew = options.anew, .cache = options.cache});
  if (!gathered) return std::vector<Result<Fit>>(lanes.size(), fail(gathered.error()));
  return plan_all(*gathered, std::vector<PlanOptions>(lanes.size(), {.own = options.own}));
}

Result<Fit> fit(const Project& project, const Lane& lane, const Shelf& shelf, const FitOptions& options) {
  return std::move(fit_all(project, {lane}, shelf, options).front());
}

}  // namespace fibula
