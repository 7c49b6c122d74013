#include "misfits.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <memory>

namespace cli {
namespace {

Cell cell(const fibula::Fit& fit, const std::string& library) {
  for (const auto& chosen : fit.libraries) {
    if (chosen.name != library) continue;
    const std::string word(fibula::to_string(chosen.verdict));
    const bool is_static = chosen.variant.find("-static") != std::string::npos;
    const std::string linkage = chosen.variant.empty() ? chosen.verdict == fibula::Verdict::misfit ? "" : "headers"
                                : is_static            ? "static"
                                                       : "shared";
    return {linkage.empty() ? word : fmt::format("{} {}", word, linkage), style_of(chosen.verdict)};
  }
  return {"-", Style::faint};
}

std::string version_of(const std::vector<fibula::Fit>& fits, const std::string& library) {
  for (const auto& fit : fits) {
    for (const auto& chosen : fit.libraries) {
      if (chosen.name == library && !chosen.version.empty()) return chosen.version;
    }
  }
  return {};
}

/// Libraries down, lanes across; the last row is the link.
void print_fits(const fibula::Project& project, const std::vector<fibula::Fit>& fits) {
  std::vector<std::vector<Cell>> table{{{""}, {""}}};
  for (const auto& fit : fits) table[0].push_back({fit.lane.name, Style::strong});
  for (const auto& use : project.libraries()) {
    std::vector<Cell> row{{use.name, Style::strong}, {version_of(fits, use.name)}};
    for (const auto& fit : fits) row.push_back(cell(fit, use.name));
    table.push_back(std::move(row));
  }
  std::vector<Cell> link{{"link", Style::faint}, {""}};
  for (const auto& fit : fits) {
    fibula::Verdict verdict = fibula::Verdict::ok;
    for (const auto& misfit : fit.link_misfits) verdict = std::max(verdict, misfit.verdict);
    const bool judged = fit.link_misfits.empty() && fit.verdict() == fibula::Verdict::misfit;
    link.push_back(judged ? Cell{"-", Style::faint} : Cell{std::string(fibula::to_string(verdict)), style_of(verdict)});
  }
  table.push_back(std::move(link));
  print_table(table);
}

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

int run(const Session& session, const std::vector<std::string>& lane_names) {
  const auto shelf = session.shelf();
  if (!shelf) return report(session, shelf.error());
  const auto project = session.project();
  if (!project) return report(session, project.error());
  const auto lanes = project->lanes_named(lane_names);
  if (!lanes) return report(session, lanes.error());
  std::vector<fibula::Fit> fits;
  for (auto& fit : fibula::fit_all(*project, *lanes, *shelf)) {
    if (!fit) return report(session, fit.error());
    fits.push_back(std::move(*fit));
  }
  if (auto written = write_outputs(*project, fits); !written) return report(session, written.error());
  int status = all_good;
  if (session.json) print_line(fibula::emit::json(fits));
  if (!session.json) print_fits(*project, fits);
  for (const auto& fit : fits) {
    if (fit.verdict() == fibula::Verdict::misfit) status = answer_is_no;
    if (session.json) continue;
    if (fit.verdict() != fibula::Verdict::misfit) print_details(fit);
    for (const auto& misfit : fit.misfits()) {
      print_line("");
      print_misfit(misfit, fit.lane.name);
    }
  }
  return status;
}

}  // namespace

void add_fit(Program& program, Session& session) {
  auto lanes = std::make_shared<std::vector<std::string>>();
  program.command("fit", "what fits which lane, and what the compiler and linker are given")
      .list("--lane", "LANE", *lanes, "only this lane; may be given more than once")
      .example("  fibula fit\n  g++ main.cpp @.fibula/desk-debug/compile.rsp @.fibula/desk-debug/link.rsp")
      .does([&session, lanes] { return run(session, *lanes); });
}

}  // namespace cli
