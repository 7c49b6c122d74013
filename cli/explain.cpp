#include "interrupt.hpp"
#include "log_file.hpp"
#include "misfits.hpp"
#include "plan_lanes.hpp"
#include "print.hpp"
#include "screen.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <cstdio>
#include <memory>

namespace cli {
namespace {

struct ExplainOptions {
  std::string log;
  std::string command;
  std::string sarif;
  bool apply = false;
  bool undo = false;
};

/// A log to explain, and the status of the command that wrote it.
struct Failure {
  std::string text;
  int status = 0;
  bool of_build = false;  ///< the last one of the project, that failed
};

fibula::Result<Failure> logged(const std::string& path) {
  auto text = read_log_file(path);
  if (!text) return fibula::pass(text);
  return Failure{std::move(*text)};
}

/// What failed in the last build of the project here. Nothing is read from a terminal: whoever sits there would wait.
fibula::Result<Failure> of_last_build(const Session& session) {
  const auto project = session.project();
  if (!project && project.error().code == fibula::Code::absent)
    return fibula::fail({.code = fibula::Code::usage,
                         .what = "nothing to explain is named, and there is no project here whose last build failed",
                         .hint = "fibula explain LOG, or fibula explain -- COMMAND"});
  if (!project) return fibula::fail(project.error());
  auto text = read_log_file(fibula::last_failure_log(*project).string());
  // Where no command failed, something may not fit.
  return text ? Failure{std::move(*text), 1, true} : Failure{{}, 0, true};
}

/// What does not fit in the project here, as `fit` says it.
fibula::Result<std::vector<fibula::Finding>> misfits_here(const Session& session) {
  const auto project = session.trusted_project();
  if (!project) return fibula::fail(project.error());
  const auto shelf = session.shelf();
  if (!shelf) return fibula::fail(shelf.error());
  const auto fits = plan_lanes(*project, project->lanes(), *shelf);
  if (!fits) return fibula::fail(fits.error());
  auto findings = as_findings(*fits);
  if (!findings.empty()) return findings;
  return fibula::fail({.code = fibula::Code::refused,
                       .what = "no command failed in the last build of this project, and everything fits",
                       .file = project->root().string(),
                       .hint = "fibula explain LOG reads another log"});
}

void show_as_it_comes(std::string_view text, bool error) {
  if (!error) print_raw(text);
  std::fflush(stdout);
  if (error) std::fwrite(text.data(), 1, text.size(), stderr);
}

/// Runs the command and shows what it prints, as if it had been called directly. Ctrl-C ends it, and not this: what it
/// said until then is explained.
fibula::Result<Failure> run_command(const std::vector<std::string>& command, bool quiet) {
  keep_interrupts();
  fibula::Listener listener{.heard = [](std::string_view, bool) {}, .ends = [] { return interrupted() != 0; }};
  if (!quiet) listener.heard = show_as_it_comes;
  auto ran = fibula::run_and_listen(command, listener);
  if (!ran) return fibula::pass(ran);
  return Failure{ran->out + ran->err, ran->status};
}

fibula::Result<Failure> failure_meant(const Session& session, const ExplainOptions& options) {
  if (!session.trailing.empty()) return run_command(session.trailing, session.json);
  const bool of_build = options.log.empty() && options.command.empty() && (options.apply || !input_is_given());
  return of_build ? of_last_build(session) : logged(options.log);
}

/// The compiler whose folders are searched for what a log names, where the log shows no command.
fibula::Result<fibula::Toolchain> toolchain_for(const Session& session,
                                                const fibula::Result<fibula::Project>& project) {
  const bool compiler = !session.trailing.empty() && fibula::is_compiler_name(session.trailing.front());
  if (compiler) return fibula::ask({session.trailing.front()});
  // Explaining starts nothing that the project brings.
  const bool safe = project && (fibula::programs_of_its_own(*project).empty() || fibula::is_trusted(*project));
  if (safe && !project->lanes().empty())
    return fibula::ask({project->lanes().front().compiler, project->lanes().front().flags});
  return fibula::ask({"g++"});
}

void show(const Session& session, const std::vector<fibula::Finding>& findings, bool of_build) {
  if (session.json) return print_json(fibula::answers::explained(findings));
  print_findings(findings);
  if (!findings.empty()) return;
  print_line(of_build ? "nothing was found that this project could change to mend it; fibula build shows what failed"
                      : "no compile, link or load error that is known here was found in it");
}

/// For editors, where a file is named.
fibula::Result<void> keep(const Session& session, const ExplainOptions& options,
                          const std::vector<fibula::Finding>& findings) {
  if (options.sarif.empty()) return {};
  const auto project = session.project();
  const std::filesystem::path folder = project ? project->root() : std::filesystem::path(session.directory);
  return fibula::emit::write_text(options.sarif, fibula::sarif(findings, folder) + "\n");
}

fibula::Result<void> tell(const Session& session, const ExplainOptions& options,
                          const std::vector<fibula::Finding>& findings, bool of_build = false) {
  show(session, findings, of_build);
  return keep(session, options, findings);
}

/// The system did not start it: the file says why, where it is one.
int not_started(const Session& session, const ExplainOptions& options, const fibula::Shelf& shelf,
                const fibula::Error& error) {
  const auto findings = fibula::check(session.trailing, {.shelf = shelf, .folder = session.directory});
  if (!findings || findings->empty()) return report(session, error);
  if (auto told = tell(session, options, *findings); !told) return report(session, told.error());
  return answer_is_no;
}

/// Makes the changes that the findings propose.
int apply(const Session& session, const std::vector<fibula::Finding>& findings) {
  std::vector<fibula::ProjectChange> changes;
  for (const auto& finding : findings) {
    for (const auto& change : finding.changes) {
      if (std::find(changes.begin(), changes.end(), change) == changes.end()) changes.push_back(change);
    }
  }
  const auto project = session.project();
  if (!project) return report(session, project.error());
  if (changes.empty())
    return report(session,
                  {.code = fibula::Code::refused,
                   .what = "nothing was changed: none of these findings is mended by a change of the project's files",
                   .file = project->root().string(),
                   .hint = "do what the remedy says where the command or the library comes from"});
  const auto shelf = session.shelf();
  if (!shelf) return report(session, shelf.error());
  if (auto made = fibula::make_changes(session.directory, *shelf, changes); !made) return report(session, made.error());
  if (session.json) return all_good;
  print_line("");
  for (const auto& change : changes) print_line("changed: " + fibula::to_string(change, project->root()));
  print_line(styled("fibula build tries it; fibula explain --undo takes it back", Style::faint));
  return all_good;
}

int undo(const Session& session) {
  const auto back = fibula::undo_changes(session.directory);
  if (!back) return report(session, back.error());
  if (session.json) print_json(fibula::answers::explained({}));
  if (session.json) return all_good;
  for (const auto& file : *back) print_line(fmt::format("{} is as it was before", file.string()));
  return all_good;
}

int run(const Session& session, const ExplainOptions& options) {
  if (options.undo) return undo(session);
  const auto shelf = session.shelf_here();
  if (!shelf) return report(session, shelf.error());
  const auto failure = failure_meant(session, options);
  if (!failure && session.trailing.empty()) return report(session, failure.error());
  if (!failure) return not_started(session, options, *shelf, failure.error());
  if (failure->of_build && failure->text.empty()) {
    const auto findings = misfits_here(session);
    if (!findings) return report(session, findings.error());
    if (auto told = tell(session, options, *findings); !told) return report(session, told.error());
    return options.apply ? apply(session, *findings) : static_cast<int>(answer_is_no);
  }
  if (!session.trailing.empty() && failure->status == 0) {
    if (auto kept = keep(session, options, {}); !kept) return report(session, kept.error());
    if (session.json) print_json(fibula::answers::explained({}));
    return all_good;
  }
  const auto project = session.project();
  const auto toolchain = toolchain_for(session, project);
  const auto words = fibula::words_of(options.command);
  const auto findings = fibula::explain(failure->text, {.shelf = *shelf,
                                                        .project = project ? &*project : nullptr,
                                                        .toolchain = toolchain ? &*toolchain : nullptr,
                                                        .command = session.trailing.empty() ? words : session.trailing,
                                                        .folder = session.directory,
                                                        .of_project = failure->of_build,
                                                        .typed = !session.trailing.empty()});
  if (auto told = tell(session, options, findings, failure->of_build); !told) return report(session, told.error());
  if (interrupted() != 0) return status_of_interrupt();
  if (options.apply && !findings.empty()) return apply(session, findings);
  return findings.empty() && session.trailing.empty() ? all_good : answer_is_no;
}

}  // namespace

void add_explain(Program& program, Session& session) {
  auto options = std::make_shared<ExplainOptions>();
  program.command("explain", "the cause of a compile, link or load error")
      .argument("LOG", options->log,
                "a file with what the compiler printed; -: standard input; nothing, at a terminal: what failed in the "
                "last build",
                false)
      .flag("--apply", options->apply, "make the changes of this project's files that are proposed")
      .flag("--undo", options->undo, "take the last of them back")
      .option("--sarif", "FILE", options->sarif, "also write what is found as SARIF, for editors and code hosts")
      .option("--command", "LINE", options->command, "the command that wrote the log, where it does not show it")
      .example("  fibula explain build.log\n  fibula explain -- g++ main.cpp -o main\n  fibula explain -- ./harbourlog")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
