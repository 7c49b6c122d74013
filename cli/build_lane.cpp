#include "build_lane.hpp"

#include "print.hpp"

#include <fmt/format.h>

namespace cli {

std::string_view verb(fibula::BuildStep::Kind kind) {
  switch (kind) {
    case fibula::BuildStep::Kind::compile: return "compile";
    case fibula::BuildStep::Kind::archive: return "archive";
    case fibula::BuildStep::Kind::link: return "link";
  }
  return "";
}

namespace {

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

}  // namespace

fibula::Result<BuiltLane> build_lane(const Session& session, const fibula::Project& project, const fibula::Lane& lane,
                                     const fibula::Shelf& shelf, unsigned jobs) {
  fibula::BuildOptions options{.jobs = jobs};
  if (!session.json)
    options.progress = [&](const auto& step, size_t done, size_t total) { print_step(session, step, done, total); };
  auto built = fibula::build(project, lane, shelf, options);
  if (!built) return fibula::pass(built);
  progress("");
  BuiltLane result{std::move(*built), {}};
  if (!result.report.good) {
    result.findings = explain_failures(session, project, result.report);
    return result;
  }
  const fibula::Fit& fit = result.report.fit;
  if (auto written = fibula::emit::lane_files(fit); !written) return fibula::pass(written);
  if (auto placed = fibula::place_runtime_files(project, fit); !placed) return fibula::pass(placed);
  if (auto kept = fibula::keep_choices(project, {fit}, shelf); !kept) return fibula::pass(kept);
  return result;
}

}  // namespace cli
