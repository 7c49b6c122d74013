#include "misfits.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
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

std::string_view verb(fibula::BuildStep::Kind kind) {
  switch (kind) {
    case fibula::BuildStep::Kind::compile: return "compile";
    case fibula::BuildStep::Kind::archive: return "archive";
    case fibula::BuildStep::Kind::link: return "link";
  }
  return "";
}

void print_step(const Session& session, const fibula::BuildStep& step, size_t done, size_t total) {
  progress(fmt::format("[{}/{}] {} {}", done, total, verb(step.kind), step.subject));
  if (session.verbose) {
    progress("");
    print_line(
        fmt::format("{} {} ({}):\n  {}", verb(step.kind), step.subject, step.cause, fmt::join(step.command, " ")));
  }
  if (step.log.empty()) return;
  progress("");
  print_line(fmt::format(
      "{} {}", styled(fmt::format("{} {}:", verb(step.kind), step.subject), step.good ? Style::warning : Style::bad),
      step.good ? "" : "failed"));
  print_line(step.log);
}

/// Why the steps that failed did so.
std::vector<fibula::Finding> explain_failures(const Session& session, const fibula::Project& project,
                                              const fibula::BuildReport& report) {
  std::string log;
  for (const auto& step : report.steps) log += step.good ? "" : step.log;
  const auto shelf = session.shelf_here();
  if (log.empty() || !shelf) return {};
  return fibula::explain(log, {.shelf = *shelf, .project = &project, .toolchain = &report.fit.toolchain});
}

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
  for (const auto& output : project.outputs()) {
    if (output.kind != fibula::OutputKind::program) continue;
    std::fflush(stdout);
    const auto program = project.product_of(fit.lane, fit.toolchain, output);
    return fibula::run_in_foreground(fibula::run_command(fit.lane, program, session.trailing));
  }
  return fibula::fail(
      {.code = fibula::Code::refused, .what = "makes no program that could be run", .file = project.file().string()});
}

fibula::Result<fibula::BuildReport> build_lane(const Session& session, const fibula::Project& project,
                                               const fibula::Lane& lane, const fibula::Shelf& shelf, unsigned jobs) {
  fibula::BuildOptions options{.jobs = jobs};
  if (!session.json)
    options.progress = [&](const auto& step, size_t done, size_t total) { print_step(session, step, done, total); };
  auto built = fibula::build(project, lane, shelf, options);
  if (!built || !built->good) return built;
  if (auto written = fibula::emit::lane_files(built->fit); !written) return fibula::pass(written);
  if (auto placed = fibula::place_runtime_files(built->fit); !placed) return fibula::pass(placed);
  if (auto kept = fibula::keep_choices(project, {built->fit}, shelf); !kept) return fibula::pass(kept);
  return built;
}

int run(const Session& session, const Options& options) {
  const auto shelf = session.shelf();
  if (!shelf) return report(session, shelf.error());
  const auto project = session.project();
  if (!project) return report(session, project.error());
  const auto lanes = project->lanes_named(options.lanes);
  if (!lanes) return report(session, lanes.error());
  int status = all_good;
  ordered_json results = ordered_json::array();
  for (const auto& lane : *lanes) {
    const auto built = build_lane(session, *project, lane, *shelf, options.jobs);
    if (!built) return report(session, built.error());
    const auto findings = explain_failures(session, *project, *built);
    if (session.json) results.push_back(to_json(*built, findings));
    if (!session.json) print_report(*built, findings);
    if (!built->good) status = answer_is_no;
    if (!built->good || !options.run || session.json) continue;
    const auto ended = start_program(session, *project, built->fit);
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
