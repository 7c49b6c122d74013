#include "misfits.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace cli {

Style style_of(fibula::Verdict verdict) {
  switch (verdict) {
    case fibula::Verdict::ok: return Style::good;
    case fibula::Verdict::unknown:
    case fibula::Verdict::caution: return Style::warning;
    case fibula::Verdict::misfit: return Style::bad;
  }
  return Style::plain;
}

void print_misfit(const fibula::Misfit& misfit, const std::string& lane) {
  const std::string& subject = misfit.library.empty() ? misfit.subject : misfit.library;
  print_line(fmt::format(
      "{} {} in lane {}",
      styled(fmt::format("{} ({}):", fibula::to_string(misfit.verdict), misfit.rule), style_of(misfit.verdict)),
      subject, lane));
  for (const auto& evidence : misfit.evidence) print_line("  " + evidence);
  if (!misfit.remedy.empty()) print_line("  " + styled("remedy: ", Style::strong) + misfit.remedy);
}

void print_findings(const std::vector<fibula::Finding>& findings) {
  for (const auto& finding : findings) {
    print_line("");
    print_line(fmt::format("{} {}", styled(finding.cause + ":", Style::strong), finding.subject));
    for (const auto& because : finding.because) print_line("  " + because);
    for (const auto& culprit : finding.culprits) print_line("  " + culprit);
    print_line("  " + styled("remedy: ", Style::strong) + finding.remedy);
  }
}

nlohmann::ordered_json findings_json(const std::vector<fibula::Finding>& findings) {
  auto list = nlohmann::ordered_json::array();
  for (const auto& f : findings) {
    list.push_back({{"cause", f.cause},
                    {"stage", f.stage},
                    {"subject", f.subject},
                    {"culprits", f.culprits},
                    {"because", f.because},
                    {"remedy", f.remedy},
                    {"edit", f.edit},
                    {"certainty", f.certainty}});
  }
  return list;
}

}  // namespace cli
