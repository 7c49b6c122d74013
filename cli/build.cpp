#include "build_lanes.hpp"
#include "for_people.hpp"
#include "interrupt.hpp"
#include "misfits.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/ranges.h>
#include <algorithm>
#include <filesystem>
#include <memory>
#include <set>

namespace cli {
namespace {

struct BuildOptions {
  std::vector<std::string> lanes;
  unsigned jobs = 0;
  bool run = false;
  std::string output;
  bool keep_going = false;
  bool clean = false;
  bool allow_steps = false;
  bool unsandboxed = false;
  bool one_line = false;
  bool as_locked = false;
  std::string why;
  std::string sarif;
};

std::string outcome_of(const fibula::BuildReport& report) {
  const size_t ran = report.steps.size();
  const std::string commands = ran == 1 ? "1 command run" : fmt::format("{} commands run", ran);
  if (report.stopped) return styled("stopped", Style::warning) + ", " + commands;
  if (!report.good && report.products.empty()) return styled("not built", Style::bad);
  if (!report.good && report.not_made.empty()) return styled("built, and not as the project wants it", Style::bad);
  if (!report.good)
    return styled("built in part", Style::bad) + fmt::format(", not {}", fmt::join(report.not_made, ", "));
  if (report.products.empty() && ran == 0) return "makes nothing: fibula.toml names no [[output]]";
  return styled("built", Style::good) + ", " + (ran == 0 ? "nothing to do" : commands);
}

/// "flash 1200 of 32768 bytes, 4 %".
void print_memory(const std::vector<fibula::MemoryUse>& uses) {
  std::vector<std::vector<Cell>> table;
  for (const auto& use : uses) {
    const uint64_t percent = use.length == 0 ? 0 : (use.used * 100 + use.length - 1) / use.length;
    table.push_back({{use.region, Style::faint},
                     {fmt::format("{} of {} bytes, {} %", use.used, use.length, percent),
                      percent >= 95 ? Style::warning : Style::plain}});
  }
  print_table(table, "    ");
}

/// "add  0x8004000 in SHARED".
void print_placements(const std::vector<fibula::Placement>& placements) {
  std::vector<std::vector<Cell>> table;
  for (const auto& one : placements) {
    if (!one.found) continue;
    const bool right = one.region == one.wanted || (one.region.empty() && !one.judged);
    const std::string_view nowhere = one.judged ? "no region" : "a region that the script leaves to others";
    table.push_back({{one.name, Style::faint},
                     {fmt::format("{:#x} in {}", one.address, one.region.empty() ? nowhere : one.region),
                      right ? Style::plain : Style::bad}});
  }
  print_table(table, "    ");
}

/// A fit that says what was said when nothing was left to do.
fibula::Fit remembered(const fibula::BuildReport& report) {
  fibula::Fit fit;
  fit.lane.name = report.lane;
  fit.link_misfits = report.misfits;
  return fit;
}

std::vector<fibula::Fit> fits_of(const BuiltLanes& built) {
  std::vector<fibula::Fit> fits;
  for (const auto& report : built.reports) {
    if (!report || report->stopped) continue;
    fits.push_back(report->fit ? *report->fit : remembered(*report));
  }
  return fits;
}

/// Of all lanes, each once.
std::vector<fibula::Finding> findings_of(const BuiltLanes& built) {
  std::vector<fibula::Finding> all;
  for (const auto& [lane, findings] : built.findings) {
    for (const auto& finding : findings) {
      const bool known = std::any_of(all.begin(), all.end(), [&](const fibula::Finding& other) {
        return other.cause == finding.cause && other.subject == finding.subject && other.remedy == finding.remedy;
      });
      if (!known) all.push_back(finding);
    }
  }
  return all;
}

void print_reports(const Session& session, const ProjectAtHand& here, const BuiltLanes& built,
                   const std::vector<fibula::Fit>& fits, bool one_line) {
  if (one_line) {
    for (const auto& line : fibula::emit::lines(here.project, fits)) print_line(line);
  } else {
    print_misfits(session.verbose ? fits : with_short_paths(fits));
  }
  bool changes = false;
  for (const auto& [lane, findings] : built.findings) {
    print_findings(findings);
    for (const auto& finding : findings) changes = changes || !finding.changes.empty();
  }
  if (changes) print_line(styled("fibula explain --apply changes the files so", Style::faint));
  std::set<std::string> told;  // what is wrong in several lanes is one error
  for (const auto& report : built.reports) {
    if (!report) {
      if (told.insert(fibula::render(report.error())).second) report_error(session, report.error());
      continue;
    }
    print_line(fmt::format("{}  {}", styled(report->lane, Style::strong), outcome_of(*report)));
    for (const auto& product : report->products) {
      print_line("  " + product.path.string());
      print_memory(product.memory);
      print_placements(product.placements);
    }
  }
}

/// The programs of a lane that are to be started: all, or the one that was named.
fibula::Result<std::vector<std::filesystem::path>> programs_of(const fibula::Project& project,
                                                               const fibula::BuildReport& report,
                                                               const std::string& named) {
  std::vector<std::filesystem::path> programs;
  std::vector<std::string> names;
  for (const auto& product : report.products) {
    if (product.kind != fibula::OutputKind::program) continue;
    names.push_back(product.output);
    if (named.empty() || product.output == named) programs.push_back(product.path);
  }
  if (!programs.empty()) return programs;
  const std::string known = fmt::format("{}", fmt::join(names, ", "));
  return fibula::fail(
      {.code = named.empty() ? fibula::Code::refused : fibula::Code::usage,
       .what = named.empty() ? "makes no program that could be run" : fmt::format("makes no program called {}", named),
       .file = project.file().string(),
       .hint = names.empty() ? "give an output the kind program" : "its programs are " + known});
}

/// One after the other; the first exit status that is not 0 is the answer, and each is told with its lane.
fibula::Result<int> start_programs(const Session& session, const BuildOptions& options, const ProjectAtHand& here,
                                   const fibula::Lane& lane, const fibula::BuildReport& report) {
  const auto programs = programs_of(here.project, report, options.output);
  if (!programs) return fibula::fail(programs.error());
  int status = all_good;
  for (const auto& program : *programs) {
    if (auto can = fibula::can_start(lane, report.target, here.project); !can) return fibula::pass(can);
    std::fflush(stdout);
    const auto ended = fibula::run_in_foreground(fibula::run_command(lane, program, session.trailing));
    if (!ended) return ended;
    if (*ended == 0) continue;
    const std::string who = programs->size() == 1 ? "the program" : program.filename().string();
    complain(fmt::format("{} ended with status {} in lane {}", who, *ended, lane.name), "");
    if (status == all_good) status = *ended;
  }
  return status;
}

int run_programs(const Session& session, const BuildOptions& options, const ProjectAtHand& here,
                 const BuiltLanes& built) {
  int status = all_good;
  for (size_t i = 0; i < here.lanes.size(); ++i) {
    if (!built.reports[i] || !built.reports[i]->good) continue;
    const auto ended = start_programs(session, options, here, here.lanes[i], *built.reports[i]);
    const int one = ended ? *ended : report(session, ended.error());
    if (status == all_good) status = one;
  }
  return status;
}

/// What a library's own steps would do is shown before they run for the first time.
bool agrees(const Session& session, const BuildOptions& options, const fibula::StepsQuestion& question) {
  if (options.allow_steps) return true;
  if (session.json || !input_is_terminal()) return false;
  std::string shown = fmt::format("{} {} is built by its own steps, {}:", question.library, question.version,
                                  options.unsandboxed ? "with all that you may do" : "without network, in a sandbox");
  for (const auto& step : question.steps) shown += "\n  " + step;
  return says_yes(shown + "\n");
}

int build(const Session& session, const BuildOptions& options, const ProjectAtHand& here) {
  const auto consent = [&](const fibula::StepsQuestion& question) { return agrees(session, options, question); };
  auto built = build_lanes(
      session, here,
      {.jobs = options.jobs, .keep_going = options.keep_going, .consent = consent, .unsandboxed = options.unsandboxed});
  if (!built) return report(session, built.error());
  const auto fits = fits_of(*built);
  if (auto written = write_sarif(here.project, fits, options.sarif, findings_of(*built)); !written)
    return report(session, written.error());
  int status = all_good;
  std::vector<fibula::answers::ExplainedBuild> results;
  for (const auto& one : built->reports) {
    if (one && session.json) {
      const auto findings = built->findings.find(one->lane);
      results.push_back({*one, findings == built->findings.end() ? std::vector<fibula::Finding>() : findings->second});
    }
    if (!one && session.json) return report(session, one.error());
    if (!one) status = status_of(one.error());
    if (one && !one->good && status == all_good) status = answer_is_no;
  }
  if (session.json) {
    print_json(fibula::answers::builds(results));
  } else {
    print_reports(session, here, *built, fits, options.one_line);
  }
  if (built->stopped) return status_of_interrupt();
  if (!options.run || session.json) return status;
  const int ended = run_programs(session, options, here, *built);
  return status != all_good ? status : ended;
}

int print_why(const Session& session, const ProjectAtHand& here, const std::string& name) {
  const std::filesystem::path file = std::filesystem::path(session.directory) / name;
  const auto found = fibula::why_made(here.project, here.lanes, file);
  if (found.empty())
    return report(session, {.code = fibula::Code::refused,
                            .what = "no build made it, and none read it",
                            .file = name,
                            .hint = "name a source, a header, an object or a program; fibula build first"});
  if (session.json) {
    print_json(fibula::answers::made_files(found));
    return all_good;
  }
  for (const auto& made : found) {
    size_t as_they_were = 0;
    print_line(fmt::format("{}  {}", styled(made.lane, Style::strong), made.path.string()));
    print_line(made.state.empty() ? "  is up to date" : "  would be made again: " + made.state);
    for (const auto& input : made.inputs) {
      const bool shown = session.verbose || !input.state.empty();
      if (input.state.empty()) ++as_they_were;
      if (shown) print_line(fmt::format("  {}  {}", input.path.string(), input.state));
    }
    print_line_unless(
        session.verbose,
        styled(fmt::format("  {} of {} inputs are as they were", as_they_were, made.inputs.size()), Style::faint));
  }
  return all_good;
}

/// Whether what would be built is what the lock file says. Errors: those of a fit; refused.
fibula::Result<void> as_locked(const ProjectAtHand& here) {
  std::vector<fibula::Fit> fits;
  for (auto& fit : fibula::fit_all(here.project, here.lanes, here.shelf)) {
    if (!fit) return fibula::pass(fit);
    fits.push_back(std::move(*fit));
  }
  return fibula::check_as_locked(here.project, fits);
}

int run(const Session& session, const BuildOptions& options) {
  const auto here = project_at_hand(session, options.lanes);
  if (!here) return report(session, here.error());
  if (!options.why.empty()) return print_why(session, *here, options.why);
  if (!options.clean) {
    const auto same = options.as_locked ? as_locked(*here) : fibula::Result<void>();
    return same ? build(session, options, *here) : report(session, same.error());
  }
  const auto removed = fibula::clean(here->project, here->lanes);
  if (!removed) return report(session, removed.error());
  if (session.json) {
    print_json(fibula::answers::cleaned(*removed));
  } else {
    print_line(*removed == 0 ? "nothing to remove"
                             : fmt::format("{} {} removed", *removed, *removed == 1 ? "file" : "files"));
  }
  return all_good;
}

}  // namespace

void add_build(Program& program, Session& session) {
  auto options = std::make_shared<BuildOptions>();
  program.command("build", "compile and link the program, run-time files beside it")
      .list("--lane", "LANE", options->lanes, "only this lane; may be given more than once")
      .number("-j,--jobs", "N", options->jobs, "commands at a time; as many as there are cores when left out")
      .flag("--keep-going", options->keep_going, "after a failure, build what does not depend on it")
      .flag("--allow-steps", options->allow_steps, "libraries' own build steps may run, in a sandbox, now and later")
      .flag("--unsandboxed", options->unsandboxed, "where no sandbox can be made: these steps run with your rights")
      .flag("--as-locked", options->as_locked, "only what the lock file says; anything else is an error")
      .flag("--run", options->run, "run the programs when they are built, with the arguments behind --")
      .option("--output", "NAME", options->output, "with --run: the program to run, of several")
      .option("--sarif", "FILE", options->sarif, "also write what does not fit as SARIF, for editors and code hosts")
      .flag("--one-line", options->one_line, "a line for each thing that does not fit: FILE:LINE: …")
      .option("--why", "FILE", options->why, "why a file that builds made is as it is, or what a source went into")
      .flag("--clean", options->clean, "remove what builds made")
      .example("  fibula build --lane desk-debug --run -- --days 3\n  fibula build --why src/main.cpp")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
