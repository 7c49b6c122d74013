#pragma once

#include "print.hpp"

#include <fibula/fibula.hpp>

namespace cli {

Style style_of(fibula::Verdict verdict);

/// One misfit in full: rule and subject, evidence, remedy.
void print_misfit(const fibula::Misfit& misfit, const std::string& lane);

/// Findings of an explanation, best first.
void print_findings(const std::vector<fibula::Finding>& findings);
nlohmann::ordered_json findings_json(const std::vector<fibula::Finding>& findings);

}  // namespace cli
