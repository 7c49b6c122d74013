#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <memory>

namespace cli {
namespace {

struct TrialOptions {
  std::string name;
  std::vector<std::string> lanes, functions;
};

void print_trials(const std::vector<fibula::Trial>& trials) {
  std::vector<std::vector<Cell>> rows;
  for (const auto& trial : trials) {
    const bool good = trial.outcome == fibula::TrialOutcome::good,
               failed = trial.outcome == fibula::TrialOutcome::failed;
    const bool first = trial.step == fibula::TrialStep::compile;
    rows.push_back({{first ? trial.library : "", Style::strong},
                    {first ? trial.lane : ""},
                    {good     ? "✓"
                     : failed ? "✗"
                              : "–",
                     good     ? Style::good
                     : failed ? Style::bad
                              : Style::faint},
                    {std::string(fibula::to_string(trial.step))},
                    {trial.detail.empty() ? "not tried" : trial.detail, failed ? Style::bad : Style::faint}});
  }
  print_table(rows);
}

int run(const Session& session, const TrialOptions& options) {
  const auto project = session.trusted_project();
  if (!project) return report(session, project.error());
  const auto here = project_at_hand(session, options.lanes);
  if (!here) return report(session, here.error());
  const auto trials = [&] {
    const SlowNotice notice("compiling, linking and running …");
    return fibula::try_libraries(here->project, here->lanes, here->shelf, options.name, options.functions);
  }();
  if (!trials) return report(session, trials.error());
  if (session.json) {
    print_json(fibula::answers::tried(*trials));
  } else if (trials->empty()) {
    print_line("no library is attached here; take one onto the shelf, then: fibula attach NAME");
  } else {
    print_trials(*trials);
  }
  const bool failed = std::any_of(trials->begin(), trials->end(), [](const fibula::Trial& trial) {
    return trial.outcome == fibula::TrialOutcome::failed;
  });
  return failed ? answer_is_no : all_good;
}

}  // namespace

void add_trial(Program& program, Session& session) {
  auto options = std::make_shared<TrialOptions>();
  program.command("trial", "prove each library in each lane: compile, link, run")
      .argument("NAME", options->name, "an attached library; left out: all of them", false)
      .list("--lane", "NAME", options->lanes, "only this lane; several may be named")
      .list("--function", "NAME", options->functions, "link this function, and not all that the headers declare")
      .example("  fibula trial tidecalc --lane desk-debug")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
