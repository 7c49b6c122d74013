#include "misfits.hpp"

#include "for_people.hpp"

#include <fmt/format.h>
#include <algorithm>

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

std::string_view mark_of(fibula::Verdict verdict) {
  switch (verdict) {
    case fibula::Verdict::ok: return "✓";
    case fibula::Verdict::unknown: return "?";
    case fibula::Verdict::caution: return "!";
    case fibula::Verdict::misfit: return "✗";
  }
  return "?";
}

namespace {

/// A misfit with the lanes that have it.
struct Told {
  const fibula::Misfit* misfit;
  const fibula::ChosenLibrary* library;  ///< that it is about; none for the link as a whole
  std::vector<std::string> lanes;
  bool alike = true;  ///< what is said differs in the lane's name alone
};

std::vector<std::string> said_of_each(const fibula::Misfit& misfit, const std::string& lane) {
  return fibula::emit::said_of_each(misfit, lane).evidence;
}

/// Two lanes say the same of one variant when the rule, the file and its side of the evidence are the same.
bool same(const Told& told, const fibula::Misfit& b, const std::string& lane) {
  const fibula::Misfit& a = *told.misfit;
  return a.rule == b.rule && a.verdict == b.verdict && a.subject == b.subject && a.library == b.library &&
         a.remedy == b.remedy && !a.evidence.empty() && !b.evidence.empty() &&
         said_of_each(a, told.lanes.front())[0] == said_of_each(b, lane)[0];
}

void add(std::vector<Told>& all, const fibula::Misfit& misfit, const fibula::ChosenLibrary* library,
         const std::string& lane) {
  const auto known = std::find_if(all.begin(), all.end(), [&](const Told& told) { return same(told, misfit, lane); });
  if (known == all.end()) {
    all.push_back({&misfit, library, {lane}});
  } else if (std::find(known->lanes.begin(), known->lanes.end(), lane) == known->lanes.end()) {
    known->alike = known->alike && said_of_each(*known->misfit, known->lanes.front()) == said_of_each(misfit, lane);
    known->lanes.push_back(lane);
  }
}

/// What is said to all of its lanes.
fibula::Misfit said_to_all(const Told& told) {
  const bool of_each = told.lanes.size() > 1 && told.alike;
  return of_each ? fibula::emit::said_of_each(*told.misfit, told.lanes.front()) : *told.misfit;
}

void print_heading(const Told& told) {
  const fibula::Misfit& misfit = *told.misfit;
  const std::string_view verdict =
      misfit.verdict == fibula::Verdict::ok ? "no misfit" : fibula::to_string(misfit.verdict);
  print_line("");
  print_line(fmt::format("{} {} in lane{} {}",
                         styled(fmt::format("{} ({}):", verdict, misfit.rule), style_of(misfit.verdict)),
                         misfit.library.empty() ? misfit.subject : misfit.library, told.lanes.size() > 1 ? "s" : "",
                         fmt::join(told.lanes, ", ")));
  const auto said = said_to_all(told);
  for (const auto& evidence : said.evidence) print_sentence(evidence);
}

/// What is said of a variant's file, without its path: "is 32-bit arm (read: …)".
std::string said_of_it(const fibula::Misfit& misfit) {
  if (misfit.evidence.empty()) return {};
  const std::string& text = misfit.evidence.front();
  return text.starts_with(misfit.subject + " ") ? text.substr(misfit.subject.size() + 1) : text;
}

/// The nearest variant's reasons stand above; the others have one line each.
void print_refused(const fibula::ChosenLibrary& library, const std::string& remedy) {
  if (library.refused.size() > 1) {
    print_line("  " + styled("its variants, nearest first:", Style::strong));
    std::vector<std::vector<Cell>> table;
    for (const auto& [version, variant, first] : library.refused)
      table.push_back(
          {{shown_version(version), Style::faint}, {variant}, {first.rule}, {said_of_it(first), Style::faint, true}});
    print_table(table, "    ");
  }
  // A remedy that says which build to take has said it.
  const size_t build = library.wanted.find(" for ");
  const bool said = build != std::string::npos && remedy.ends_with(library.wanted.substr(build));
  if (!library.wanted.empty() && !said) print_sentence(library.wanted, "look for: ");
}

/// What a link pulls in is told once, and not as what it might pull in besides.
bool is_said_of_link(const fibula::Fit& fit, const fibula::Misfit& misfit) {
  return misfit.rule == "pic" && std::any_of(fit.link_misfits.begin(), fit.link_misfits.end(), [&](const auto& other) {
           return other.rule == "pic" && other.library == misfit.library;
         });
}

std::vector<Told> objections(const std::vector<fibula::Fit>& fits) {
  std::vector<Told> all;
  for (const auto& fit : fits) {
    for (const auto* list : {&fit.compile_misfits, &fit.link_misfits, &fit.run_misfits}) {
      for (const auto& misfit : *list) {
        if (misfit.verdict != fibula::Verdict::unknown) add(all, misfit, nullptr, fit.lane.name);
      }
    }
    for (const auto& library : fit.libraries) {
      for (const auto& misfit : library.misfits) {
        if (!is_said_of_link(fit, misfit)) add(all, misfit, &library, fit.lane.name);
      }
    }
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const Told& a, const Told& b) { return a.misfit->verdict > b.misfit->verdict; });
  return all;
}

}  // namespace

void print_misfits(const std::vector<fibula::Fit>& fits) {
  const auto all = objections(fits);
  for (size_t i = 0; i < all.size(); ++i) {
    print_heading(all[i]);
    const auto& remedy = all[i].misfit->remedy;
    if (!remedy.empty()) print_sentence(remedy, "remedy: ");
    // Behind the last word about this library in this lane.
    const bool more = i + 1 < all.size() && all[i + 1].library == all[i].library;
    if (all[i].library != nullptr && !more) print_refused(*all[i].library, remedy);
  }
}

void note_forecast(const std::vector<fibula::Fit>& fits) {
  for (const auto& told : objections(fits)) {
    if (told.misfit->verdict != fibula::Verdict::misfit) continue;
    progress("");
    note(fmt::format("foreseen for {}: {}", fmt::join(told.lanes, ", "), said_to_all(told).sentence()));
  }
}

void print_notes(const std::vector<fibula::Fit>& fits, bool in_full) {
  std::vector<Told> all;
  for (const auto& fit : fits) {
    for (const auto& misfit : fit.link_misfits) {
      if (misfit.verdict == fibula::Verdict::unknown) add(all, misfit, nullptr, fit.lane.name);
    }
    for (const auto& library : fit.libraries) {
      for (const auto& note : library.notes) add(all, note, &library, fit.lane.name);
    }
  }
  if (all.empty()) return;
  if (in_full) {
    for (const auto& told : all) print_heading(told);
    return;
  }
  const auto is_unknown = [](const Told& told) { return told.misfit->verdict == fibula::Verdict::unknown; };
  const auto unknown = static_cast<size_t>(std::count_if(all.begin(), all.end(), is_unknown));
  std::vector<std::string> parts;
  const auto count = [&](size_t number, std::string_view one, std::string_view many) {
    if (number > 0) parts.push_back(fmt::format("{} {}", number, number == 1 ? one : many));
  };
  count(all.size() - unknown, "difference that does no harm", "differences that do no harm");
  count(unknown, "fact could not be determined", "facts could not be determined");
  print_line("");
  print_line(styled(fmt::format("{}: fibula -v fit says which", fmt::join(parts, ", ")), Style::faint));
}

namespace {

/// When a rule's misfit would be met; of those that are met before anything runs: while it is set up.
std::string stage_of(const std::string& rule) {
  for (const auto& id : fibula::all_ids()) {
    if (id.name == rule && !id.stage.empty()) return std::string(id.stage);
  }
  return "configure";
}

}  // namespace

std::vector<fibula::Finding> as_findings(const std::vector<fibula::Fit>& fits) {
  std::vector<fibula::Finding> findings;
  for (const auto& told : objections(fits)) {
    const fibula::Misfit& misfit = *told.misfit;
    const auto same = std::find_if(findings.begin(), findings.end(), [&](const fibula::Finding& known) {
      return known.cause == misfit.rule && known.subject == misfit.subject && known.remedy == misfit.remedy;
    });
    if (same != findings.end()) continue;
    findings.push_back({.cause = misfit.rule,
                        .stage = stage_of(misfit.rule),
                        .subject = misfit.subject,
                        .because = misfit.evidence,
                        .remedy = misfit.remedy,
                        .certainty = "read",
                        .changes = misfit.changes,
                        .place = misfit.place});
  }
  return findings;
}

void print_findings(const std::vector<fibula::Finding>& findings) {
  for (const auto& finding : findings) {
    print_line("");
    print_line(fmt::format("{} {}", styled(finding.cause + ":", Style::strong), finding.subject));
    for (const auto& because : finding.because) print_sentence(because);
    for (const auto& culprit : finding.culprits) print_sentence(culprit);
    print_sentence(finding.remedy, "remedy: ");
    if (!finding.command.empty()) print_sentence(finding.edit + (finding.tried ? " (tried)" : ""), "in the command: ");
    if (finding.command.empty() && !finding.edit.empty() && finding.remedy.find(finding.edit) == std::string::npos)
      print_sentence(finding.edit + (finding.tried ? " (tried)" : ""), "edit: ");
  }
}

}  // namespace cli
