#include "fit_table.hpp"
#include "for_people.hpp"
#include "misfits.hpp"
#include "needs.hpp"
#include "plan_lanes.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <memory>
#include <optional>

namespace cli {
namespace {

void print_details(const fibula::Fit& fit) {
  print_line("");
  print_line(styled(fit.lane.name, Style::strong) +
             styled(fmt::format("  {} {}, {}", fibula::to_string(fit.toolchain.family), fit.toolchain.version,
                                fibula::to_string(fit.toolchain.target)),
                    Style::faint));
  std::vector<std::vector<Cell>> table;
  for (const auto& d : fit.include_directories)
    table.push_back({{"include", Style::faint}, {d.path.string()}, {d.why, Style::faint}});
  for (const auto& d : fit.definitions) table.push_back({{"define", Style::faint}, {d.text}, {d.why, Style::faint}});
  for (const auto& link : fit.links) {
    for (const auto& input : link.inputs)
      table.push_back(
          {{"link", Style::faint}, {fmt::format("{}", fmt::join(input.arguments, " "))}, {input.why, Style::faint}});
  }
  print_table(table, "  ");
  for (const auto& closure : fit.closures) {
    const std::string name = closure.path.filename().string();
    if (closure.foreseen && closure.entries.empty()) {
      print_line("  " + styled(name + " is not linked yet: its link inputs name no run-time file", Style::faint));
      continue;
    }
    print_line("  " +
               styled(name + (closure.foreseen ? " will need, as far as its link inputs say" : " needs when it runs"),
                      Style::faint));
    print_needs_tree(closure.path.string(), closure.entries, false, "    ");
  }
}

fibula::Result<void> write_outputs(const fibula::Project& project, const std::vector<fibula::Fit>& fits) {
  if (auto written = fibula::emit::lane_files(fits); !written) return written;
  for (const auto& fit : fits) {
    if (fit.verdict() == fibula::Verdict::misfit) continue;
    if (auto placed = fibula::place_runtime_files(project, fit); !placed) return fibula::pass(placed);
  }
  std::vector<const fibula::Fit*> all;
  for (const auto& fit : fits) all.push_back(&fit);
  return fibula::emit::compilation_database(project, all);
}

struct FitOptions {
  std::vector<std::string> lanes;
  std::vector<std::string> program;  ///< files of one that is compiled elsewhere
  std::string why;
  std::string sarif;
  bool one_line = false;
  bool diff = false;
  bool as_locked = false;
  bool materials = false;
};

/// Libraries that come as source, each told once.
void print_to_build(const std::vector<fibula::Fit>& fits) {
  std::vector<std::string> told;
  for (const auto& fit : fits) {
    for (const auto& library : fit.libraries) {
      if (library.to_build.empty() || std::find(told.begin(), told.end(), library.name) != told.end()) continue;
      if (told.empty()) print_line("");
      print_line(fmt::format("{}{} comes as source, {}: fibula build makes it", library.name,
                             shown_version(library.version, " "), library.to_build));
      told.push_back(library.name);
    }
  }
}

/// What is not chosen and why, lane by lane; what is chosen is worth the space for few lanes only.
void print_fits(const Session& session, const fibula::Project& project, std::vector<fibula::Fit> fits,
                const FitOptions& options) {
  if (project.outputs().empty() && project.libraries().empty()) {
    print_line("fibula.toml names no [[output]] and no library: there is nothing to fit");
    print_sentence("fibula begin adds what the sources here make, fibula attach NAME a library", "remedy: ");
    return;
  }
  if (!session.verbose) fits = with_short_paths(std::move(fits));
  const size_t before = printed_lines();
  print_fit_table(project, fits);
  if (project.outputs().empty() && options.program.empty() && !project.libraries().empty())
    print_line(
        styled("the link is for all that the headers declare; for what your program calls:  fibula fit --for *.o",
               Style::faint));
  print_to_build(fits);
  const bool in_full = session.verbose || !options.lanes.empty() || fits.size() <= 2;
  for (const auto& fit : fits) {
    if (in_full && fit.verdict() != fibula::Verdict::misfit) print_details(fit);
  }
  print_misfits(fits);
  print_notes(fits, session.verbose);
  if (!in_full) print_line(styled("what one lane is given:  fibula fit --lane NAME", Style::faint));
  // The answer is not to be scrolled back for.
  if (!is_terminal(Stream::output) || printed_lines() - before < screen_height()) return;
  print_line("");
  print_fit_table(project, fits);
}

/// Why a name stands in each of the fits. What stands in none of them is no answer.
int print_why(const Session& session, const std::vector<fibula::Fit>& fits, const std::string& name) {
  std::vector<fibula::answers::LaneReasons> all;
  bool found = false;
  for (const auto& fit : fits) {
    all.push_back({fit.lane.name, fibula::why(fit, name)});
    std::vector<std::vector<Cell>> table;
    for (const auto& reason : all.back().reasons) {
      found = true;
      table.push_back({{reason.kind, Style::faint}, {reason.subject}, {reason.why, Style::faint}});
    }
    if (session.json || table.empty()) continue;
    print_line(styled(fit.lane.name, Style::strong));
    print_table(table, "  ");
  }
  if (!found) {
    std::string known;
    for (const auto& library : fits.front().libraries) known += (known.empty() ? "" : ", ") + library.name;
    return report(session, {.code = fibula::Code::refused,
                            .what = fmt::format("nothing in the fit is called {}", name),
                            .hint = fmt::format("ask for a library ({}), a directory, a definition or a file", known)});
  }
  if (session.json) print_json(fibula::answers::reasons(name, all));
  return all_good;
}

/// What a fit without the lock file would choose otherwise. Nothing is written.
int print_diff(const Session& session, const fibula::Project& project, const std::vector<fibula::Fit>& fits) {
  const auto changes = fibula::compare_with_lock(project, fits);
  if (!changes) return report(session, changes.error());
  std::vector<std::vector<Cell>> table;
  for (const auto& change : *changes) {
    table.push_back({{change.library, Style::strong},
                     {change.lane},
                     {change.before.empty() ? "nothing" : change.before},
                     {"→", Style::faint},
                     {change.after.empty() ? "nothing" : change.after}});
  }
  if (session.json) {
    print_json(fibula::answers::lock_changes(*changes));
  } else if (changes->empty()) {
    print_line("nothing would change: what the lock file has is what would be chosen now");
  } else {
    print_table(table);
    print_line(styled("fibula attach NAME lets a library be chosen anew", Style::faint));
  }
  return changes->empty() ? all_good : answer_is_no;
}

fibula::Result<std::vector<fibula::Fit>> make_fits(const fibula::Project& project, const fibula::Shelf& shelf,
                                                   const std::filesystem::path& from, const FitOptions& options) {
  const auto lanes = project.lanes_named(options.lanes);
  if (!lanes) return fibula::fail(lanes.error());
  fibula::GatherOptions wishes{.anew = options.diff};
  for (const auto& file : options.program) wishes.program.push_back(from / file);
  return plan_lanes(project, *lanes, shelf, wishes);
}

fibula::Result<void> keep(const fibula::Project& project, const fibula::Shelf& shelf,
                          const std::vector<fibula::Fit>& fits, const FitOptions& options) {
  if (auto written = write_outputs(project, fits); !written) return written;
  if (auto kept = fibula::keep_choices(project, fits, shelf); !kept) return fibula::pass(kept);
  if (!options.materials || project.outputs().empty()) return {};
  for (const auto& fit : fits) {
    // Of a lane that does not fit nothing is made that would have a bill.
    if (fit.verdict() == fibula::Verdict::misfit) continue;
    if (auto written = fibula::emit::materials(fit, project.outputs().front().name); !written) return written;
  }
  return {};
}

int run(const Session& session, const FitOptions& options) {
  const auto shelf = session.shelf();
  if (!shelf) return report(session, shelf.error());
  const auto project = session.trusted_project();
  if (!project) return report(session, project.error());
  const auto fits = make_fits(*project, *shelf, session.directory, options);
  if (!fits) return report(session, fits.error());
  if (options.diff) return print_diff(session, *project, *fits);
  if (!options.why.empty()) return print_why(session, *fits, options.why);
  if (options.as_locked) {
    if (auto same = fibula::check_as_locked(*project, *fits); !same) return report(session, same.error());
  }
  if (auto kept = keep(*project, *shelf, *fits, options); !kept) return report(session, kept.error());
  if (auto written = write_sarif(*project, *fits, options.sarif); !written) return report(session, written.error());
  if (session.json) {
    print_raw(fibula::emit::json(*fits) + "\n");
  } else if (options.one_line) {
    for (const auto& line : fibula::emit::lines(*project, *fits)) print_line(line);
  } else {
    print_fits(session, *project, *fits, options);
  }
  const auto is_misfit = [](const fibula::Fit& fit) { return fit.verdict() == fibula::Verdict::misfit; };
  return std::any_of(fits->begin(), fits->end(), is_misfit) ? answer_is_no : all_good;
}

}  // namespace

void add_fit(Program& program, Session& session) {
  auto options = std::make_shared<FitOptions>();
  program.command("fit", "what fits which lane, and what the compiler and linker are given")
      .list("--lane", "LANE", options->lanes, "only this lane; may be given more than once")
      .files("--for", "FILE...", options->program,
             "the program's object files, or a list of the names that it needs, when something else compiles it")
      .option("--why", "NAME", options->why,
              "why a library, directory, definition, link input or run-time file is there")
      .flag("--diff", options->diff, "what would be chosen otherwise without the lock file; writes nothing")
      .flag("--as-locked", options->as_locked, "only what the lock file says; anything else is an error")
      .option("--sarif", "FILE", options->sarif, "also write what does not fit as SARIF, for editors and code hosts")
      .flag("--one-line", options->one_line, "a line for each thing that does not fit: FILE:LINE: …")
      .flag("--materials", options->materials, "also write bills of materials, SPDX and CycloneDX")
      .example(
          "  fibula fit\n  fibula fit --why m\n  fibula fit --for build/*.o\n  g++ main.cpp "
          "@.fibula/desk-debug/compile.rsp "
          "@.fibula/desk-debug/link.rsp")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
