#include "build_lanes.hpp"

#include "interrupt.hpp"
#include "misfits.hpp"
#include "print.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <chrono>

namespace cli {

namespace {

/// Tells people what runs.
class Narrator {
 public:
  /// `log`: the file in which the whole of what failed will be.
  Narrator(const Session& session, size_t lanes, std::string log)
      : session_(session), several_(lanes > 1), log_(std::move(log)) {}

  void step(const fibula::BuildStep& step, const fibula::BuildProgress& so_far) {
    const std::string name =
        fmt::format("{}{} {}", several_ ? step.lane + " " : "", to_string(step.kind), step.subject);
    const std::string place = fmt::format("[{}/{}]", so_far.done, so_far.known);
    if (session_.verbose) {
      progress("");
      print_line(fmt::format("{} {} ({}):", place, name, step.cause));
      print_line(fmt::format("  {}", fmt::join(step.command, " ")));
    } else if (is_terminal(Stream::error)) {
      progress(fmt::format("{} {}{}", place, name, time_left(so_far)));
    } else {
      note(fmt::format("{} {}", place, name));
    }
    if (!step.log.empty()) say(step, name);
  }

  /// Which lanes said what others had said before.
  void finish() const {
    for (const auto& said : said_) {
      if (said.others.empty()) continue;
      print_line(fmt::format("{} said the same in {} {}", said.subject, said.others.size() == 1 ? "lane" : "lanes",
                             fmt::join(said.others, ", ")));
    }
  }

 private:
  struct Said {
    std::string subject, text;
    std::vector<std::string> others;
  };

  std::string time_left(const fibula::BuildProgress& so_far) const {
    const std::chrono::duration<double> passed = std::chrono::steady_clock::now() - began_;
    if (passed.count() < 2 || so_far.done == 0 || so_far.done >= so_far.known) return {};
    const double left =
        passed.count() / static_cast<double>(so_far.done) * static_cast<double>(so_far.known - so_far.done);
    return left < 90 ? fmt::format(", {:.0f} s left", left + 1) : fmt::format(", {:.0f} min left", left / 60 + 1);
  }

  /// Of a library's own code the beginning is enough: whoever mends it finds the rest.
  void print_log(const fibula::BuildStep& step) const {
    constexpr ptrdiff_t enough = 24;
    size_t end = 0;
    for (ptrdiff_t line = 0; line < enough && end != std::string::npos; ++line)
      end = step.log.find('\n', end == 0 ? 0 : end + 1);
    const auto more = end == std::string::npos
                          ? 0
                          : std::count(step.log.begin() + static_cast<ptrdiff_t>(end) + 1, step.log.end(), '\n');
    if (step.library.empty() || step.kind != fibula::BuildStep::Kind::compile || more < 2) return print_lines(step.log);
    print_lines(step.log.substr(0, end));
    print_line(styled(fmt::format("… {} more lines in {}", more, log_), Style::faint));
  }

  void say(const fibula::BuildStep& step, const std::string& name) {
    const auto same = std::find_if(said_.begin(), said_.end(), [&](const Said& one) {
      return one.subject == step.subject && one.text == step.log;
    });
    if (same != said_.end()) {
      same->others.push_back(step.lane);
      return;
    }
    said_.push_back({step.subject, step.log, {}});
    progress("");
    print_line(step.good ? styled(name + ":", Style::warning) : styled(name + " failed:", Style::bad));
    print_log(step);
  }

  const Session& session_;
  bool several_;
  std::string log_;
  std::chrono::steady_clock::time_point began_ = std::chrono::steady_clock::now();
  std::vector<Said> said_;
};

/// Why the steps that failed did so; what another lane's log says too is not explained again.
void explain_failures(const Session& session, const ProjectAtHand& here, BuiltLanes& built) {
  const auto shelf = session.shelf_here();
  if (!shelf) return;
  std::vector<std::string> explained;
  for (const auto& report : built.reports) {
    if (!report || !report->fit) continue;
    std::string said;
    for (const auto& step : report->steps) said += fibula::can_be_explained(step) ? step.subject + step.log : "";
    if (said.empty() || std::find(explained.begin(), explained.end(), said) != explained.end()) continue;
    const std::string log = fibula::failure_log(here.project, *report);
    built.findings[report->lane] = fibula::explain(log, {.shelf = *shelf,
                                                         .project = &here.project,
                                                         .toolchain = &report->fit->toolchain,
                                                         .folder = here.project.root(),
                                                         .of_project = true,
                                                         .typed = true});
    explained.push_back(std::move(said));
  }
}

}  // namespace

fibula::Result<BuiltLanes> build_lanes(const Session& session, const ProjectAtHand& here,
                                       fibula::BuildOptions options) {
  Narrator narrator(session, here.lanes.size(), fibula::last_failure_log(here.project).string());
  keep_interrupts();
  options.stop = [] { return interrupted() != 0; };
  if (!session.json) {
    options.progress = [&](const auto& step, const auto& so_far) { narrator.step(step, so_far); };
    options.forecast = [](const auto& fits) { note_forecast(fits); };
    options.waiting = [] { note("waits for another build of this project"); };
  }
  auto reports = fibula::build_all(here.project, here.lanes, here.shelf, options);
  progress("");
  if (!reports && interrupted() == 0) return fibula::pass(reports);
  if (!reports) return BuiltLanes{.reports = {}, .stopped = true};
  if (!session.json) narrator.finish();
  BuiltLanes built{.reports = std::move(*reports)};
  built.stopped = interrupted() != 0;
  if (!built.stopped) explain_failures(session, here, built);
  return built;
}

}  // namespace cli
