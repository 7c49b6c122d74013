/// What fits object to, for editors and code hosts.
#include "base/text.hpp"
#include "emit/sarif_parts.hpp"
#include "emit/told.hpp"
#include "os/files.hpp"

#include <fibula/emit.hpp>

#include <fmt/format.h>
#include <algorithm>

namespace fibula::emit {
namespace {

/// "tidecalc in lanes a, b: …; … Remedy: …".
std::string message(const Told& told) {
  const Misfit& misfit = told.misfit;
  std::string text =
      fmt::format("{} in lane{} {}: {}", misfit.library.empty() ? misfit.subject : misfit.library,
                  told.lanes.size() > 1 ? "s" : "", text::join(told.lanes, ", "), text::join(misfit.evidence, "; "));
  if (!misfit.remedy.empty()) text += fmt::format(". Remedy: {}", misfit.remedy);
  return text;
}

}  // namespace

std::vector<SarifResult> results_of(const Project& project, const std::vector<Fit>& fits) {
  std::vector<SarifResult> results;
  for (const auto& told : told_misfits(project, fits))
    results.push_back({told.misfit.rule, told.misfit.verdict == Verdict::misfit, message(told), told.place});
  return results;
}

std::string sarif(const Project& project, const std::vector<Fit>& fits) {
  return sarif_log(project.root(), results_of(project, fits));
}

std::vector<std::string> lines(const Project& project, const std::vector<Fit>& fits) {
  std::vector<std::string> all;
  for (const auto& told : told_misfits(project, fits)) {
    const std::string place = shown_from(project.root(), told.place.file);
    all.push_back(fmt::format("{}:{}: {}: {}: {}", place, std::max(told.place.line, 1U),
                              told.misfit.verdict == Verdict::misfit ? "error" : "warning", told.misfit.rule,
                              message(told)));
  }
  return all;
}

}  // namespace fibula::emit
