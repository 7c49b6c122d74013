#include "build_lanes.hpp"
#include "interrupt.hpp"
#include "misfits.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <filesystem>
#include <memory>

namespace cli {
namespace {

namespace fs = std::filesystem;
using fibula::StagedFile;
using fibula::StageReport;

struct StageOptions {
  std::vector<std::string> lanes;
  std::string into;
  std::string check;
  bool licences = false;
};

void print_misfit(const fibula::Misfit& misfit) {
  print_line(fmt::format("  {} {}: {}", styled("✗", Style::bad), styled(misfit.subject, Style::strong), misfit.rule));
  for (const auto& evidence : misfit.evidence) print_sentence(evidence, "      ");
  print_sentence(misfit.remedy, "      → ");
}

void print_files(const StageReport& report) {
  std::vector<std::vector<Cell>> table;
  for (const auto& file : report.files) {
    const bool kept = file.change == StagedFile::Change::kept;
    table.push_back({{file.path},
                     {std::string(to_string(file.change)), kept ? Style::faint : Style::good},
                     {file.why, Style::faint}});
  }
  for (const auto& path : report.removed)
    table.push_back({{path}, {"removed", Style::warning}, {"not needed any more", Style::faint}});
  for (const auto& path : report.left_alone)
    table.push_back(
        {{path}, {"left", Style::warning}, {"not needed any more, but somebody changed it since", Style::faint}});
  print_table(table, "  ");
}

void print_left(const StageReport& report) {
  if (report.left.empty()) return;
  std::vector<std::vector<Cell>> table;
  for (const auto& one : report.left)
    table.push_back({{fs::path(one.name).filename().string()},
                     {one.least.empty() ? "" : one.least + " or newer"},
                     {one.why, Style::faint}});
  print_line("  " + styled("left to the system", Style::strong));
  print_table(table, "    ");
}

void print_report(const std::string& lane, const StageReport& report) {
  print_line(fmt::format("{}  {}", styled(lane, Style::strong), report.folder.string()));
  for (const auto& misfit : report.misfits) print_misfit(misfit);
  print_files(report);
  print_left(report);
  if (report.files.empty()) return;
  const auto changed = std::count_if(report.files.begin(), report.files.end(),
                                     [](const StagedFile& file) { return file.change != StagedFile::Change::kept; });
  print_line(fmt::format("  {} {}, {}", report.files.size(), report.files.size() == 1 ? "file" : "files",
                         changed == 0 ? "nothing to do" : fmt::format("{} written", changed)));
}

int check(const Session& session, const std::string& folder) {
  const auto checked = fibula::check_stage(folder);
  if (!checked) return report(session, checked.error());
  if (session.json) {
    print_json(fibula::answers::stage_checked(folder, *checked));
  } else {
    std::vector<std::vector<Cell>> table;
    for (const auto& change : checked->changes) table.push_back({{change.path}, {change.what, Style::bad}});
    print_table(table, "  ");
    print_line(fmt::format("{} of {} as staged", checked->files - checked->changes.size(), checked->files));
  }
  return checked->changes.empty() ? all_good : answer_is_no;
}

/// With several lanes each has a folder of its own.
fs::path folder_for(const StageOptions& options, const fibula::Lane& lane, size_t lanes) {
  return lanes == 1 ? fs::path(options.into) : fs::path(options.into) / lane.name;
}

int refuse_unbuilt(const Session& session, const BuiltLanes& built, const fibula::BuildReport& lane) {
  if (!session.json && lane.fit) print_misfits({*lane.fit});
  const auto findings = built.findings.find(lane.lane);
  if (!session.json && findings != built.findings.end()) print_findings(findings->second);
  return report(session, {.code = fibula::Code::refused,
                          .what = fmt::format("lane {} is not built: nothing is staged", lane.lane),
                          .hint = "fibula build tells more"});
}

int stage_lanes(const Session& session, const StageOptions& options) {
  const auto here = project_at_hand(session, options.lanes);
  if (!here) return report(session, here.error());
  const auto& project = here->project;
  const auto& lanes = here->lanes;
  const auto built = build_lanes(session, *here, {.whole = true});
  if (!built) return report(session, built.error());
  if (built->stopped) return status_of_interrupt();
  int status = all_good;
  std::vector<fibula::answers::StagedLane> stages;
  for (size_t i = 0; i < lanes.size(); ++i) {
    const auto& one = built->reports[i];
    if (!one) return report(session, one.error());
    if (!one->good) return refuse_unbuilt(session, *built, *one);
    auto staged = fibula::stage(project, *one->fit,
                                {.into = folder_for(options, lanes[i], lanes.size()), .licences = options.licences});
    if (!staged) return report(session, staged.error());
    if (!staged->misfits.empty()) status = answer_is_no;
    if (!session.json) print_report(lanes[i].name, *staged);
    if (session.json) stages.push_back({lanes[i].name, std::move(*staged)});
  }
  if (session.json) print_json(fibula::answers::stages(stages));
  return status;
}

int run(const Session& session, const StageOptions& options) {
  if (!options.check.empty() && options.into.empty()) return check(session, options.check);
  if (!options.into.empty() && options.check.empty()) return stage_lanes(session, options);
  return report(session, {.code = fibula::Code::usage,
                          .what = "needs a folder",
                          .hint = "fibula stage --into DIR makes one, fibula stage --check DIR looks at one"});
}

}  // namespace

void add_stage(Program& program, Session& session) {
  auto options = std::make_shared<StageOptions>();
  program.command("stage", "a folder that runs on a machine without the libraries")
      .option("--into", "DIR", options->into, "build, and put the program there with every file that it needs")
      .list("--lane", "LANE", options->lanes, "only this lane; several lanes get a folder each below DIR")
      .flag("--licences", options->licences, "also the licences of the libraries")
      .option("--check", "DIR", options->check, "whether a staged folder is still as it was made")
      .example("  fibula stage --into harbourlog-1.0 --lane desk-release\n  fibula stage --check harbourlog-1.0")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
