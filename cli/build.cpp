#include "build_lane.hpp"
#include "misfits.hpp"
#include "needs.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <memory>
#include <nlohmann/json.hpp>

namespace cli {
namespace {

using nlohmann::ordered_json;

struct Options {
  std::vector<std::string> lanes;
  unsigned jobs = 0;
  bool run = false;
};

ordered_json to_json(const fibula::BuildReport& report, const std::vector<fibula::Finding>& findings) {
  ordered_json steps = ordered_json::array(), products = ordered_json::array(), misfits = ordered_json::array();
  for (const auto& step : report.steps) {
    steps.push_back({{"kind", verb(step.kind)},
                     {"subject", step.subject},
                     {"good", step.good},
                     {"cause", step.cause},
                     {"command", step.command},
                     {"log", step.log}});
  }
  for (const auto& product : report.products) products.push_back(product.string());
  for (const auto& misfit : report.fit.misfits()) misfits.push_back(misfit.sentence());
  return {{"lane", report.fit.lane.name}, {"good", report.good}, {"steps", steps},
          {"products", products},         {"misfits", misfits},  {"findings", findings_json(findings)}};
}

void print_report(const fibula::BuildReport& report, const std::vector<fibula::Finding>& findings) {
  progress("");
  print_misfits({report.fit});
  print_findings(findings);
  if (!report.good) {
    print_line(fmt::format("{}  {}", styled(report.fit.lane.name, Style::strong), styled("not built", Style::bad)));
    return;
  }
  const std::string work =
      report.steps.empty()
          ? "nothing to do"
          : fmt::format("{} run",
                        report.steps.size() == 1 ? "1 command" : fmt::format("{} commands", report.steps.size()));
  print_line(
      fmt::format("{}  {}, {}", styled(report.fit.lane.name, Style::strong), styled("built", Style::good), work));
  for (const auto& product : report.products) print_line("  " + product.string());
}

fibula::Result<int> start_program(const Session& session, const fibula::Project& project, const fibula::Fit& fit) {
  for (const auto& closure : fit.closures) {
    // What will keep it from starting is said before it does not.
    if (std::any_of(closure.entries.begin(), closure.entries.end(), fibula::is_bad)) print_troubles({closure});
  }
  for (const auto& output : project.outputs()) {
    if (output.kind != fibula::OutputKind::program) continue;
    std::fflush(stdout);
    const auto program = project.product_of(fit.lane, fit.toolchain, output);
    return fibula::run_in_foreground(fibula::run_command(fit.lane, program, session.trailing));
  }
  return fibula::fail(
      {.code = fibula::Code::refused, .what = "makes no program that could be run", .file = project.file().string()});
}

int run(const Session& session, const Options& options) {
  const auto here = project_at_hand(session, options.lanes);
  if (!here) return report(session, here.error());
  const auto& [shelf, project, lanes] = *here;
  int status = all_good;
  ordered_json results = ordered_json::array();
  for (const auto& lane : lanes) {
    const auto built = build_lane(session, project, lane, shelf, options.jobs);
    if (!built) return report(session, built.error());
    const auto& [report_of_lane, findings] = *built;
    if (session.json) results.push_back(to_json(report_of_lane, findings));
    if (!session.json) print_report(report_of_lane, findings);
    if (!report_of_lane.good) status = answer_is_no;
    if (!report_of_lane.good || !options.run || session.json) continue;
    const auto ended = start_program(session, project, report_of_lane.fit);
    if (!ended) return report(session, ended.error());
    if (*ended != 0) {
      complain(fmt::format("the program ended with status {} in lane {}", *ended, lane.name), "");
      status = answer_is_no;
    }
  }
  if (session.json) print_json({{"schema", "fibula.build/1"}, {"lanes", results}});
  return status;
}

}  // namespace

void add_build(Program& program, Session& session) {
  auto options = std::make_shared<Options>();
  program.command("build", "compile and link the program, run-time files beside it")
      .list("--lane", "LANE", options->lanes, "only this lane; may be given more than once")
      .number("-j,--jobs", "N", options->jobs, "commands at a time; as many as there are cores when left out")
      .flag("--run", options->run, "run the program when it is built, with the arguments behind --")
      .example("  fibula build --lane desk-debug --run -- --days 3")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
