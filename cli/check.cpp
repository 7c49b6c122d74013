#include "log_file.hpp"
#include "misfits.hpp"
#include "print.hpp"
#include "session.hpp"

#include <memory>

namespace cli {
namespace {

fibula::Result<std::vector<fibula::Finding>> look(const Session& session, const std::string& log,
                                                  const fibula::ExplainContext& context) {
  if (!session.trailing.empty()) return fibula::check(session.trailing, context);
  if (log.empty())
    return fibula::fail({.code = fibula::Code::usage,
                         .what = "nothing to check",
                         .hint = "put a command behind --, or name a log, a script or compile_commands.json"});
  const auto text = read_log_file(log);
  if (!text) return fibula::fail(text.error());
  return fibula::check_all(*text, context);
}

int run(const Session& session, const std::string& log) {
  const auto shelf = session.shelf_here();
  if (!shelf) return report(session, shelf.error());
  const auto project = session.project();
  const auto findings = look(session, log,
                             {.shelf = *shelf,
                              .project = project ? &*project : nullptr,
                              .folder = session.directory,
                              .typed = !session.trailing.empty()});
  if (!findings) return report(session, findings.error());
  if (session.json) {
    print_json(fibula::answers::foreseen(*findings));
  } else {
    print_findings(*findings);
    if (findings->empty()) print_line("nothing was found that would keep it from working");
  }
  return findings->empty() ? all_good : answer_is_no;
}

}  // namespace

void add_check(Program& program, Session& session) {
  auto log = std::make_shared<std::string>();
  program.command("check", "what a compile or link command would meet, before it runs")
      .argument("LOG", *log, "a log, a script or a compilation database that holds commands; - for standard input",
                false)
      .example(
          "  fibula check -- g++ main.o -Llib -ltidecalc -o harbourlog\n  fibula check compile_commands.json\n"
          "  fibula check -- ./harbourlog")
      .does([&session, log] { return run(session, *log); });
}

}  // namespace cli
