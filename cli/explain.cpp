#include "misfits.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <cstdio>
#include <fstream>
#include <iostream>
#include <memory>
#include <nlohmann/json.hpp>
#include <sstream>

namespace cli {
namespace {

struct Options {
  std::string log;
};

/// A log to explain, and the status of the command that wrote it.
struct Failure {
  std::string text;
  int status = 0;
};

fibula::Result<Failure> read_log(const std::string& path) {
  std::ostringstream text;
  if (path.empty() || path == "-") {
    text << std::cin.rdbuf();
    return Failure{text.str()};
  }
  // A pipe without a writer would make us wait, and a device gives for ever.
  std::error_code error;
  const auto kind = std::filesystem::status(path, error).type();
  if (kind != std::filesystem::file_type::regular && kind != std::filesystem::file_type::not_found)
    return fibula::fail({.code = fibula::Code::unreadable,
                         .what = "is not a regular file",
                         .file = path,
                         .hint = "name a log file; a pipe is read as standard input: fibula explain - <PIPE"});
  const std::ifstream stream(path, std::ios::binary);
  if (!stream)
    return fibula::fail({.code = fibula::Code::absent,
                         .what = "cannot be opened",
                         .file = path,
                         .hint = "name a log file, or put the command behind --"});
  text << stream.rdbuf();
  return Failure{text.str()};
}

/// Runs the command and shows what it prints, as if it had been called directly.
fibula::Result<Failure> run_command(const std::vector<std::string>& command, bool quiet) {
  auto ran = fibula::run_and_listen(command);
  if (!ran) return fibula::pass(ran);
  if (!quiet) print_raw(ran->out);
  if (!quiet) std::fwrite(ran->err.data(), 1, ran->err.size(), stderr);
  return Failure{ran->out + ran->err, ran->status};
}

/// The compiler of a command answers where it searches, when it is one.
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

int run(const Session& session, const Options& options) {
  const auto shelf = session.shelf_here();
  if (!shelf) return report(session, shelf.error());
  const auto failure = session.trailing.empty() ? read_log(options.log) : run_command(session.trailing, session.json);
  if (!failure) return report(session, failure.error());
  if (!session.trailing.empty() && failure->status == 0) {
    if (session.json) print_json({{"schema", "fibula.explain/1"}, {"findings", nlohmann::ordered_json::array()}});
    return all_good;
  }
  const auto project = session.project();
  const auto toolchain = toolchain_for(session, project);
  const auto findings = fibula::explain(failure->text, {.shelf = *shelf,
                                                        .project = project ? &*project : nullptr,
                                                        .toolchain = toolchain ? &*toolchain : nullptr,
                                                        .command = session.trailing});
  if (session.json) {
    print_json({{"schema", "fibula.explain/1"}, {"findings", findings_json(findings)}});
  } else {
    print_findings(findings);
    if (findings.empty()) print_line("no compile, link or load error that is known here was found in it");
  }
  return findings.empty() && session.trailing.empty() ? all_good : answer_is_no;
}

}  // namespace

void add_explain(Program& program, Session& session) {
  auto options = std::make_shared<Options>();
  program.command("explain", "the cause of a compile, link or load error")
      .argument("LOG", options->log, "a file with what the compiler printed; - or nothing: standard input", false)
      .example("  fibula explain build.log\n  fibula explain -- g++ main.cpp -o main\n  fibula explain -- ./harbourlog")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
