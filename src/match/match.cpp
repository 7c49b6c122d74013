#include "match/match.hpp"

#include "base/names.hpp"
#include "base/text.hpp"
#include "match/sides.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr Name<Verdict> verdicts[] = {
    {Verdict::ok, "ok"}, {Verdict::unknown, "unknown"}, {Verdict::caution, "caution"}, {Verdict::misfit, "misfit"}};

/// What a file is for comes first: when that is wrong, nothing else about it means anything.
const std::vector<std::vector<Rule>>& tables() {
  static const std::vector<std::vector<Rule>> all{target_rules(), code_rules(), run_time_rules(), definition_rules()};
  return all;
}

bool is_misfit(const Misfit& m) {
  return m.verdict == Verdict::misfit;
}

}  // namespace

std::vector<Misfit> match(const Pairing& pairing) {
  std::vector<Misfit> said;
  for (const auto& table : tables()) {
    for (const Rule rule : table) {
      if (auto word = rule(pairing)) said.push_back(std::move(*word));
    }
    const bool for_another_machine = &table == &tables().front() && std::any_of(said.begin(), said.end(), is_misfit);
    if (for_another_machine) break;
  }
  return said;
}

bool objects(const Misfit& said) {
  return said.verdict == Verdict::caution || said.verdict == Verdict::misfit;
}

Verdict worst(const std::vector<Misfit>& misfits) {
  Verdict verdict = Verdict::ok;
  for (const auto& misfit : misfits) {
    if (misfit.verdict != Verdict::unknown) verdict = std::max(verdict, misfit.verdict);
  }
  return verdict;
}

std::string_view to_string(Verdict verdict) {
  return name_in<Verdict>(verdicts, verdict);
}

std::string Misfit::sentence() const {
  const std::string subject_text = library.empty() ? subject : library;
  std::string text = fmt::format("{}: {}: {}", subject_text, rule, text::join(evidence, "; "));
  return remedy.empty() ? text : text + "; " + remedy;
}

}  // namespace fibula
