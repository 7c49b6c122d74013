#pragma once

#include "print.hpp"

#include <fibula/fibula.hpp>

namespace cli {

Style style_of(fibula::Verdict verdict);

/// A mark for a cell: good, look here, no.
std::string_view mark_of(fibula::Verdict verdict);

/// Every misfit and caution in full, worst first; what lanes have in common is said once. Below a library that fits
/// nowhere: each of its variants with the first reason why not, and what to look for.
void print_misfits(const std::vector<fibula::Fit>& fits);

/// What a build foresees while its first commands run: what would keep a link from working, a line each.
void note_forecast(const std::vector<fibula::Fit>& fits);

/// What looks different and does no harm, and what no file tells: in full, or as a count.
void print_notes(const std::vector<fibula::Fit>& fits, bool in_full);

/// What does not fit, as findings: each once, for however many lanes.
std::vector<fibula::Finding> as_findings(const std::vector<fibula::Fit>& fits);

/// Findings of an explanation, best first.
void print_findings(const std::vector<fibula::Finding>& findings);

}  // namespace cli
