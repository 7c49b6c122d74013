#include "diagnose/header_trials.hpp"

#include "base/text.hpp"
#include "commands/log_reader.hpp"
#include "commands/said.hpp"
#include "headers/well_known_headers.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// The header that a line of a compiler misses, as it was included.
std::optional<std::string> missed_in(std::string_view line) {
  const auto complaint = read_line(said_by_compilers(), line);
  if (!complaint || complaint->kind != Complaint::Kind::header_missing) return std::nullopt;
  return complaint->name;
}

}  // namespace

HeaderOutcome header_outcome(std::string_view log, std::string_view triple) {
  const auto lines = text::lines(log);
  const auto first = std::find_if(lines.begin(), lines.end(),
                                  [](std::string_view line) { return line.find("error") != std::string_view::npos; });
  if (first == lines.end()) return HeaderOutcome::wrong;
  const auto missed = missed_in(*first);
  if (missed && other_system_of_header(*missed, triple)) return HeaderOutcome::other_system;
  // Compilers quote the directive on that line or on the next.
  const bool refuses = std::any_of(first, std::min(lines.end(), first + 2),
                                   [](std::string_view line) { return line.find("#error") != std::string_view::npos; });
  return refuses ? HeaderOutcome::refuses : HeaderOutcome::wrong;
}

std::string name_missed_in(std::string_view log) {
  const auto complaints = read_log(log, {}).complaints;
  const bool is_it = !complaints.empty() && complaints.front().kind == Complaint::Kind::unknown_name;
  return is_it ? complaints.front().name : std::string();
}

std::vector<HeaderOrder> orders_to_try(const std::vector<HeaderFailure>& failed,
                                       const std::vector<std::string>& headers, const Card& card,
                                       const Variant* variant) {
  constexpr size_t most = 4;  // for each: a name that all mention is told by none
  std::vector<HeaderOrder> tries;
  for (const auto& failure : failed) {
    if (failure.missed.empty()) continue;
    std::vector<std::string> firsts;
    for (const auto& header : headers) {
      if (header == failure.header || firsts.size() >= most) continue;
      for (const auto& directory : card.include_directories_for(variant)) {
        const auto text = read_text(card.root / directory / header);
        if (!text || !text::has_word(*text, failure.missed)) continue;
        firsts.push_back(header);
        break;
      }
    }
    for (auto& first : firsts) tries.push_back({std::move(first), failure.header});
  }
  return tries;
}

std::string sentence(const HeaderTally& tally) {
  std::string text = text::count(tally.good, "header") + ", each alone";
  if (tally.parts != 0) text += fmt::format(", and {} that others of it include", tally.parts);
  if (tally.refusing != 0) text += fmt::format(", and {} that an #error of its own keeps from that", tally.refusing);
  if (tally.other_system != 0) text += fmt::format(", and {} for another system", tally.other_system);
  for (const auto& [first, then] : tally.ordered) text += fmt::format(", and {} behind {}", then, first);
  return text;
}

}  // namespace fibula
