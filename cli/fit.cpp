#include "fit_table.hpp"
#include "misfits.hpp"
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
                                fit.toolchain.triple),
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
  for (const auto& f : fit.runtime_files)
    table.push_back({{"runtime", Style::faint}, {f.path.string()}, {f.why, Style::faint}});
  print_table(table, "  ");
}

fibula::Result<bool> write_outputs(const fibula::Project& project, const std::vector<fibula::Fit>& fits) {
  for (const auto& fit : fits) {
    if (fit.verdict() == fibula::Verdict::misfit) continue;
    if (auto written = fibula::emit::lane_files(fit); !written) return written;
    if (auto placed = fibula::place_runtime_files(fit); !placed) return placed;
  }
  return fits.empty() ? fibula::Result<bool>(true) : fibula::emit::compilation_database(project, fits.front());
}

struct Options {
  std::vector<std::string> lanes;
};

/// What is not chosen and why, lane by lane; what is chosen is worth the space for few lanes only.
void print_fits(const Session& session, const fibula::Project& project, const std::vector<fibula::Fit>& fits,
                const Options& options) {
  print_fit_table(project, fits);
  const bool in_full = session.verbose || !options.lanes.empty() || fits.size() <= 2;
  for (const auto& fit : fits) {
    if (in_full && fit.verdict() != fibula::Verdict::misfit) print_details(fit);
  }
  print_misfits(fits);
  print_notes(fits, session.verbose);
}

int run(const Session& session, const Options& options) {
  const auto shelf = session.shelf();
  if (!shelf) return report(session, shelf.error());
  const auto project = session.project();
  if (!project) return report(session, project.error());
  const auto lanes = project->lanes_named(options.lanes);
  if (!lanes) return report(session, lanes.error());
  std::vector<fibula::Fit> fits;
  std::optional<SlowNotice> notice(std::in_place, "asking compilers, reading headers, rehearsing links …");
  auto fitted = fibula::fit_all(*project, *lanes, *shelf);
  notice.reset();
  for (auto& fit : fitted) {
    if (!fit) return report(session, fit.error());
    fits.push_back(std::move(*fit));
  }
  if (auto written = write_outputs(*project, fits); !written) return report(session, written.error());
  if (auto kept = fibula::keep_choices(*project, fits, *shelf); !kept) return report(session, kept.error());
  if (session.json) {
    print_line(fibula::emit::json(fits));
  } else {
    print_fits(session, *project, fits, options);
  }
  const auto is_misfit = [](const fibula::Fit& fit) { return fit.verdict() == fibula::Verdict::misfit; };
  return std::any_of(fits.begin(), fits.end(), is_misfit) ? answer_is_no : all_good;
}

}  // namespace

void add_fit(Program& program, Session& session) {
  auto options = std::make_shared<Options>();
  program.command("fit", "what fits which lane, and what the compiler and linker are given")
      .list("--lane", "LANE", options->lanes, "only this lane; may be given more than once")
      .example("  fibula fit\n  g++ main.cpp @.fibula/desk-debug/compile.rsp @.fibula/desk-debug/link.rsp")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
