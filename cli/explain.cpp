#include "log_file.hpp"
#include "misfits.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <cstdio>
#include <memory>
#include <nlohmann/json.hpp>

namespace cli {
namespace {

struct Options {
  std::string log;
  std::string command;
};

/// A log to explain, and the status of the command that wrote it.
struct Failure {
  std::string text;
  int status = 0;
};

fibula::Result<Failure> logged(const std::string& path) {
  auto text = read_log_file(path);
  if (!text) return fibula::pass(text);
  return Failure{std::move(*text)};
}

/// Runs the command and shows what it prints, as if it had been called directly.
fibula::Result<Failure> run_command(const std::vector<std::string>& command, bool quiet) {
  auto ran = fibula::run_and_listen(command);
  if (!ran) return fibula::pass(ran);
  if (!quiet) print_raw(ran->out);
  if (!quiet) std::fwrite(ran->err.data(), 1, ran->err.size(), stderr);
  return Failure{ran->out + ran->err, ran->status};
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

void show(const Session& session, const std::vector<fibula::Finding>& findings) {
  if (session.json) return print_json({{"schema", "fibula.explain/1"}, {"findings", findings_json(findings)}});
  print_findings(findings);
  if (findings.empty()) print_line("no compile, link or load error that is known here was found in it");
}

/// The system did not start it: the file says why, where it is one.
int not_started(const Session& session, const fibula::Shelf& shelf, const fibula::Error& error) {
  const auto findings = session.trailing.empty()
                            ? fibula::Result<std::vector<fibula::Finding>>(fibula::fail(error))
                            : fibula::check(session.trailing, {.shelf = shelf, .folder = session.directory});
  if (!findings || findings->empty()) return report(session, error);
  show(session, *findings);
  return answer_is_no;
}

int run(const Session& session, const Options& options) {
  const auto shelf = session.shelf_here();
  if (!shelf) return report(session, shelf.error());
  const auto failure = session.trailing.empty() ? logged(options.log) : run_command(session.trailing, session.json);
  if (!failure) return not_started(session, *shelf, failure.error());
  if (!session.trailing.empty() && failure->status == 0) {
    if (session.json) print_json({{"schema", "fibula.explain/1"}, {"findings", nlohmann::ordered_json::array()}});
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
                                                        .typed = !session.trailing.empty()});
  show(session, findings);
  return findings.empty() && session.trailing.empty() ? all_good : answer_is_no;
}

}  // namespace

void add_explain(Program& program, Session& session) {
  auto options = std::make_shared<Options>();
  program.command("explain", "the cause of a compile, link or load error")
      .argument("LOG", options->log, "a file with what the compiler printed; - or nothing: standard input", false)
      .option("--command", "LINE", options->command, "the command that wrote the log, where it does not show it")
      .example("  fibula explain build.log\n  fibula explain -- g++ main.cpp -o main\n  fibula explain -- ./harbourlog")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
